// What the controller holds and has reported, beside what is published.
import { Box, Button, Group } from "@mantine/core";
import type { Schemas } from "../../api";
import { minutes, moment, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import working from "../reasons/Working.module.css";
import { useAnswer } from "../runs/queries";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { useClearLeftOut, useConnect, useReplaced } from "./queries";
import { controllerWords, longTime, notSoWords } from "./words";

/** Lines that are shown, of those that were left out. */
const MOST_SHOWN = 5;

type Props = { site: string; controller: Schemas["ControllerView"]; published: boolean; timeZone: string };

const FAULTS: Record<string, string> = {
  no_flow:
    "nothing flowed while its valve was open: look at the valve and its low-voltage wire; mains electricity and pumps are for licensed people",
  high_flow: "more flowed than its sprinklers take: look for a broken head or pipe",
};

export function ControllerState({ site, controller, published, timeZone }: Props) {
  const { manage } = useRights(site);
  const connect = useConnect(site);
  const units = useUnits();
  const clear = useClearLeftOut(site);
  const replaced = useReplaced(site);
  const answer = useAnswer(site);
  const { connected, missed, faults, left_out, doubtful } = controller;
  const say = (run: number, seconds?: number) =>
    answer.mutate({
      run,
      answer: seconds === undefined ? { answer: "did_not_run" } : { answer: "changed", seconds, sure: true },
    });
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
      {doubtful.map((run) => (
        <Box key={run.run} mt="xs">
          <p className={working.warning}>
            {run.zone_name}, {moment(run.started_at, timeZone)}: the record says {longTime(run.seconds)}, as the
            controller told it; {minutes(run.planned_s)} were sent. That cannot be so. What is so?
          </p>
          {manage && (
            <Group gap="xs" mt="xs">
              <Button size="xs" variant="outline" onClick={() => say(run.run, run.planned_s)}>
                It ran {minutes(run.planned_s)}
              </Button>
              <Button size="xs" variant="outline" onClick={() => say(run.run)}>
                It did not run
              </Button>
            </Group>
          )}
        </Box>
      ))}
      {left_out.length > 0 && (
        <Box mt="xs">
          <p className={working.warning}>
            {left_out.length === 1 ? "A line" : `${left_out.length} lines`} of its log cannot be so and{" "}
            {left_out.length === 1 ? "is" : "are"} left out of the record:
          </p>
          <ul>
            {left_out.slice(0, MOST_SHOWN).map((line, place) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a log may tell the same nonsense twice
              <li key={place}>
                {line.why === "numbered" || line.number == null ? "A line: " : `Line ${line.number}: `}
                {notSoWords(line, timeZone, units)}.
              </li>
            ))}
            {left_out.length > MOST_SHOWN && <li>And {left_out.length - MOST_SHOWN} more.</li>}
          </ul>
          {manage && (
            <Button size="xs" variant="outline" loading={clear.isPending} onClick={() => clear.mutate(undefined)}>
              I have looked at them
            </Button>
          )}
        </Box>
      )}
      <Refused error={connect.error ?? clear.error ?? replaced.error ?? answer.error} />
      {manage && (
        <Group mt="xs" gap="xs">
          <Button size="xs" variant="outline" loading={connect.isPending} onClick={() => connect.mutate(!connected)}>
            {connected ? "Disconnect it" : "Connect it"}
          </Button>
          {connected && controller.trouble && (
            <Button size="xs" variant="outline" loading={replaced.isPending} onClick={() => replaced.mutate(undefined)}>
              It was replaced by another
            </Button>
          )}
        </Group>
      )}
    </section>
  );
}
