// What the controller holds and has reported, beside what is published.
import { Button } from "@mantine/core";
import type { Schemas } from "../../api";
import { moment, sentenceCase } from "../../time";
import working from "../reasons/Working.module.css";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { useConnect } from "./queries";
import { controllerWords } from "./words";

type Props = { site: string; controller: Schemas["ControllerView"]; published: boolean; timeZone: string };

const FAULTS: Record<string, string> = {
  no_flow:
    "nothing flowed while its valve was open: look at the valve and its low-voltage wire; mains electricity and pumps are for licensed people",
  high_flow: "more flowed than its sprinklers take: look for a broken head or pipe",
};

export function ControllerState({ site, controller, published, timeZone }: Props) {
  const { manage } = useRights(site);
  const connect = useConnect(site);
  const { connected, missed, faults } = controller;
  return (
    <section>
      <h3 className={working.heading}>{sentenceCase(controller.name ?? "the simulated controller")}</h3>
      <p className={working.plain}>{controllerWords(controller, published, timeZone)}</p>
      {missed.map((m) => (
        <p key={`${m.zone_name}-${m.started_at}`} className={working.warning}>
          {m.zone_name}, {moment(m.started_at, timeZone)}:{" "}
          {m.passes === 0 ? "did not run" : `${m.passes} of ${m.planned_passes} passes ran`}. What is missing is not
          sent late; the plan counts on it no more.
        </p>
      ))}
      {faults.map((f) => (
        <p key={f.zone_name} className={working.warning}>
          {f.zone_name}, {moment(f.at, timeZone)}: {FAULTS[f.fault] ?? f.fault}.
        </p>
      ))}
      <Refused error={connect.error} />
      {manage && (
        <Button
          mt="xs"
          size="xs"
          variant="outline"
          loading={connect.isPending}
          onClick={() => connect.mutate(!connected)}
        >
          {connected ? "Disconnect it" : "Connect it"}
        </Button>
      )}
    </section>
  );
}
