// A test of the soil: how it is done, what it says while it is typed, what it changes once it is kept.
import { Button, Group, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { type ComponentType, useEffect, useState } from "react";
import { ApiFailure, type Catalogue, type Schemas, type SiteView, type Zone } from "../../api";
import { sentenceCase } from "../../time";
import { MayRecord } from "../session/MayRecord";
import { Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery, siteQuery, zonesQuery } from "../site/queries";
import classes from "../sprinklers/Sprinklers.module.css";
import { CoreTest } from "./CoreTest";
import { Done } from "./Done";
import { DropTest } from "./DropTest";
import type { FormProps } from "./form";
import { JarTest } from "./JarTest";
import { type Draft, useDraft } from "./kept";
import { LabTest } from "./LabTest";
import { resultQuery, type SoilResult, type SoilTest, useAddSoilTest } from "./queries";
import { ResultView } from "./ResultView";
import { RingTest } from "./RingTest";
import { RunoffTest } from "./RunoffTest";
import { SqueezeTest } from "./SqueezeTest";
import { isMethod, type Method, TESTS } from "./words";

/** A field of a single reading of a ring. */
const READING = /readings\[\d+\]\./;

type Form = {
  Form: ComponentType<FormProps>;
  /** The test as far as it is noted; undefined before it says anything. */
  test: (noted: Record<string, never>) => SoilTest | undefined;
};

const FORMS: Record<Method, Form> = {
  jar: {
    Form: JarTest,
    test: ({ sand_to_mm, silt_to_mm, clay_to_mm, organic_pct }) =>
      clay_to_mm === undefined || silt_to_mm === undefined || sand_to_mm === undefined
        ? undefined
        : { method: "jar", sand_to_mm, silt_to_mm, clay_to_mm, organic_pct },
  },
  lab: {
    Form: LabTest,
    test: ({ sand_pct, silt_pct, clay_pct, organic_pct }) =>
      sand_pct === undefined || silt_pct === undefined || clay_pct === undefined
        ? undefined
        : { method: "lab", sand_pct, silt_pct, clay_pct, organic_pct },
  },
  squeeze: {
    Form: SqueezeTest,
    test: ({ ball, feel }) => (ball && feel ? { method: "squeeze", ball, feel } : undefined),
  },
  ring: {
    Form: RingTest,
    test: ({ walls, rings }) => (rings ? { method: "ring", walls: walls ?? { walls: "double" }, rings } : undefined),
  },
  runoff: {
    Form: RunoffTest,
    test: ({ minutes, gone_minutes }) =>
      minutes === undefined ? undefined : { method: "runoff", minutes, gone_minutes },
  },
  drops: {
    Form: DropTest,
    test: ({ seconds }) => (seconds && (seconds as number[]).length > 0 ? { method: "drops", seconds } : undefined),
  },
  core: {
    Form: CoreTest,
    test: ({ roots_mm, layers }) =>
      roots_mm && (roots_mm as number[]).length > 0 ? { method: "core", roots_mm, layers: layers ?? [] } : undefined,
  },
};

export function SoilTestPage() {
  const { site, zone, test } = useParams({ from: "/site/$site/soil/$zone/$test" });
  return (
    <MayRecord site={site} what="test the soil">
      {isMethod(test) ? (
        <Testing key={`${zone}-${test}`} site={site} id={Number(zone)} method={test} />
      ) : (
        <Failed message="There is no such test." />
      )}
    </MayRecord>
  );
}

function Testing({ site, id, method }: { site: string; id: number; method: Method }) {
  const zones = useQuery(zonesQuery(site));
  const view = useQuery(siteQuery(site));
  const catalogue = useQuery(catalogueQuery);
  const error = zones.error ?? view.error ?? catalogue.error;
  // What is here goes on without a connection.
  if (!zones.data || !view.data || !catalogue.data)
    return error ? <Failed message={error.message} /> : <Loading what="the test" />;
  const zone = zones.data.find((z) => z.id === id)?.zone;
  if (!zone) return <Failed message="There is no such zone here." />;
  return <Test site={site} id={id} method={method} zone={zone} view={view.data} catalogue={catalogue.data} />;
}

type TestProps = { site: string; id: number; method: Method; zone: Zone; view: SiteView; catalogue: Catalogue };

function Test({ site, id, method, zone, view, catalogue }: TestProps) {
  const { draft, keep, forget, again } = useDraft(site, id, method);
  const [added, setAdded] = useState<Schemas["SoilTested"]>();
  const { Form, test: testOf } = FORMS[method];
  const test = testOf(draft.noted as Record<string, never>);
  const computed = useQuery(resultQuery(site, id, test));
  const so_far = test && !computed.isPlaceholderData ? computed.data : undefined;
  const [pressed, setPressed] = useState(false);
  const problem = (field: string) => {
    // A reading that cannot be is said at once; what is still missing, when it is to be kept.
    if (!so_far?.problem || !(pressed || READING.test(field))) return undefined;
    return so_far.field === field ? sentenceCase(so_far.problem) : undefined;
  };
  const note = (noted: Record<string, unknown>) => keep((d) => ({ ...d, noted: { ...d.noted, ...noted } }));
  const title = `${zone.name}: ${TESTS[method].name.toLowerCase()}`;
  if (added)
    return (
      <Done
        title={title}
        site={site}
        zone={id}
        name={zone.name}
        added={added}
        view={<ResultView result={added.result} zone={zone} soils={catalogue.soils} />}
        onAgain={() => {
          again();
          setAdded(undefined);
        }}
      />
    );
  if (draft.done)
    return (
      <Sending
        title={title}
        site={site}
        zone={id}
        draft={draft}
        onSent={(sent) => {
          forget();
          setAdded(sent);
        }}
        onBack={() => keep(({ done: _, date: __, ...d }) => d)}
      />
    );
  const finish = () => {
    setPressed(true);
    if (!test) return;
    // Without a connection nobody says yet whether it holds: the server will.
    if (so_far ? so_far.problem : computed.error instanceof ApiFailure && computed.error.status !== 0) return;
    keep((d) => ({ ...d, done: test, date: view.today }));
  };
  return (
    <main className={classes.narrow}>
      <h1>{title}</h1>
      <Form view={view} zone={zone} catalogue={catalogue} noted={draft.noted} note={note} problem={problem} />
      {so_far && <SoFar result={so_far.result} zone={zone} catalogue={catalogue} />}
      {pressed && so_far?.problem && (
        <Text role="alert" c="clay">
          {sentenceCase(so_far.problem)}
        </Text>
      )}
      {computed.error instanceof ApiFailure && computed.error.status !== 0 && <Refused error={computed.error} />}
      {test && (
        <Button size="md" onClick={finish}>
          Keep it, plan with it
        </Button>
      )}
      <Button
        variant="subtle"
        onClick={() => {
          forget();
          again();
          setPressed(false);
        }}
      >
        Throw this test away
      </Button>
    </main>
  );
}

function SoFar({ result, zone, catalogue }: { result: SoilResult; zone: Zone; catalogue: Catalogue }) {
  return (
    <section aria-label="So far">
      <ResultView result={result} zone={zone} soils={catalogue.soils} />
    </section>
  );
}

type SendingProps = {
  title: string;
  site: string;
  zone: number;
  draft: Draft;
  onSent: (added: Schemas["SoilTested"]) => void;
  onBack: () => void;
};

/** A finished test waits on this device until the server has it. */
function Sending({ title, site, zone, draft, onSent, onBack }: SendingProps) {
  const add = useAddSoilTest(site, zone);
  const send = () => {
    if (draft.done)
      add.mutate({ test: draft.done, date: draft.date ?? null, idempotency_key: draft.key }, { onSuccess: onSent });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: sent when it is finished and whenever the connection returns
  useEffect(() => {
    send();
    window.addEventListener("online", send);
    return () => window.removeEventListener("online", send);
  }, [draft.key]);
  const refused = add.error instanceof ApiFailure && add.error.status !== 0 ? add.error : null;
  return (
    <main className={classes.narrow}>
      <h1>{title}</h1>
      {refused ? <Refused error={refused} /> : <Text role="status">Saved on this phone, sent when connected.</Text>}
      <Group>
        <Button loading={add.isPending} onClick={send}>
          Send now
        </Button>
        <Button variant="outline" onClick={onBack}>
          Back to the readings
        </Button>
      </Group>
    </main>
  );
}
