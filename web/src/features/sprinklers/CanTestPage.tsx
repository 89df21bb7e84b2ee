// A can test with one wet thumb: lay out the cans, run the zone, type the readings. Kept on this phone first, sent once.
import { Button, Group, NativeSelect, NumberInput, SegmentedControl, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { type FormEvent, useEffect, useState } from "react";
import type { ApiFailure, Schemas } from "../../api";
import { newKey } from "../../key";
import { minutesSeconds, sentenceCase } from "../../time";
import { type Quantity, useUnits } from "../../units";
import { changeWords } from "../morning/Changes";
import { Failed, Loading, Refused } from "../shell/States";
import { problem } from "../site/fields";
import { catalogueQuery, siteQuery, zonesQuery } from "../site/queries";
import { type Draft, forgetDraft, headsOf, layOut, nextUnread, readCount, readingText, useDraft } from "./draft";
import { PlanDrawing } from "./PlanDrawing";
import { type TestResult, useAddTest, useReckon } from "./queries";
import classes from "./Sprinklers.module.css";
import { ResultList } from "./SprinklersPage";
import { RATINGS } from "./words";

export function CanTestPage() {
  const { site, zone } = useParams({ from: "/site/$site/sprinklers/$zone" });
  const id = Number(zone);
  const zones = useQuery(zonesQuery(site));
  const [draft, setDraft] = useDraft(site, id);
  if (zones.isPending) return <Loading what="the zone" />;
  // Without a connection what was known of the zone is enough.
  if (!zones.data) return <Failed message={zones.error.message} retry={() => zones.refetch()} />;
  const found = zones.data.find((z) => z.id === id);
  if (!found) return <Failed message="There is no such zone here." />;
  const name = found.zone.name;
  if (!draft) return <LayOut name={name} area={found.zone.area_m2} onBegin={setDraft} />;
  return <Test key={draft.key} site={site} zone={id} name={name} draft={draft} setDraft={setDraft} />;
}

/** Step one: the zone, the heads, the cans. */
function LayOut({ name, area, onBegin }: { name: string; area: number; onBegin: (draft: Draft) => void }) {
  const units = useUnits();
  const catalogue = useQuery(catalogueQuery);
  const side = Math.round(Number(units.toField("length", Math.sqrt(area))));
  const [width, setWidth] = useState<number | string>(side);
  const [length, setLength] = useState<number | string>(side);
  const [columns, setColumns] = useState<number | string>(4);
  const [rows, setRows] = useState<number | string>(4);
  const [heads, setHeads] = useState("corners");
  const [kind, setKind] = useState("volume");
  const [throat, setThroat] = useState<number | string>(Number(units.figure("throat", 100)));
  const [holds, setHolds] = useState<number | string>(250);
  const [deep, setDeep] = useState<number | string>(Number(units.figure("depth", 100)));
  const [minutes, setMinutes] = useState<number | string>(15);
  const [wind, setWind] = useState("");
  const [errors, setErrors] = useState<Record<string, string | undefined>>({});
  const si = (quantity: Quantity, typed: number | string) => units.toSi(quantity, Number(typed));
  const [w, l, c, r] = [si("length", width), si("length", length), Number(columns), Number(rows)];
  /** What does not hold, by field: by the server's own ranges. */
  const find = (): Record<string, string | undefined> => {
    const range = (typed: number | string, name: string, quantity?: Quantity) =>
      catalogue.data &&
      problem(String(typed), { name, required: true, ...(quantity ? { quantity } : {}) }, catalogue.data, units);
    const whole = (x: number) =>
      Number.isInteger(x) && x >= 1 && x <= 20 ? undefined : "A whole number from 1 to 20.";
    return {
      width: range(width, "plan_m", "length") ?? (w > 0 ? undefined : "More than 0."),
      length: range(length, "plan_m", "length") ?? (l > 0 ? undefined : "More than 0."),
      columns: whole(c),
      rows: whole(r),
      minutes: range(minutes, "minutes"),
      throat: kind === "volume" ? range(throat, "throat_cm2", "throat") : undefined,
      holds: kind === "volume" ? range(holds, "holds_ml") : undefined,
      deep: kind === "straight" ? range(deep, "deep_mm", "depth") : undefined,
    };
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const found = find();
    setErrors(found);
    if (Object.values(found).some(Boolean)) return;
    onBegin({
      key: newKey(),
      next: 1,
      finished: false,
      test: {
        corners: [
          { x_m: 0, y_m: 0 },
          { x_m: w, y_m: 0 },
          { x_m: w, y_m: l },
          { x_m: 0, y_m: l },
        ],
        heads: headsOf(w, l, heads),
        container:
          kind === "volume"
            ? { kind: "volume", throat_cm2: si("throat", throat), holds_ml: Number(holds) }
            : { kind: "straight", deep_mm: si("depth", deep) },
        minutes: Number(minutes),
        ...(wind === "" ? {} : { wind_m_s: Number(wind) }),
        cans: layOut(w, l, c, r),
      },
    });
  };
  return (
    <main className={classes.narrow}>
      <h1>{name}: test with cans</h1>
      <Text className="quiet">
        Set out cans in even rows, run the zone alone, read each can. The more cans the surer: 24 are a good test.
      </Text>
      <form onSubmit={submit} noValidate>
        <Stack gap="sm">
          <Group grow align="flex-start">
            <NumberInput
              label={`Width, ${units.label("length")}`}
              value={width}
              error={errors.width}
              onChange={setWidth}
              hideControls
            />
            <NumberInput
              label={`Length, ${units.label("length")}`}
              value={length}
              error={errors.length}
              onChange={setLength}
              hideControls
            />
          </Group>
          <Group grow align="flex-start">
            <NumberInput
              label="Cans in a row"
              value={columns}
              error={errors.columns}
              onChange={setColumns}
              hideControls
            />
            <NumberInput label="Rows" value={rows} error={errors.rows} onChange={setRows} hideControls />
          </Group>
          <NativeSelect
            label="Heads"
            value={heads}
            data={[
              { value: "corners", label: "in the corners" },
              { value: "sides", label: "in the corners and midway along the sides" },
              { value: "none", label: "elsewhere" },
            ]}
            onChange={(e) => setHeads(e.currentTarget.value)}
          />
          <SegmentedControl
            aria-label="What catches the water"
            value={kind}
            onChange={setKind}
            data={[
              { value: "volume", label: "Read in mL" },
              { value: "straight", label: "Straight sides" },
            ]}
          />
          {kind === "volume" ? (
            <Group grow align="flex-start">
              <NumberInput
                label={`Mouth, ${units.label("throat")}`}
                value={throat}
                error={errors.throat}
                onChange={setThroat}
                hideControls
              />
              <NumberInput label="Holds, mL" value={holds} error={errors.holds} onChange={setHolds} hideControls />
            </Group>
          ) : (
            <NumberInput
              label={`Can's depth, ${units.label("depth")}`}
              value={deep}
              error={errors.deep}
              onChange={setDeep}
              hideControls
            />
          )}
          <Group grow align="flex-start">
            <NumberInput label="Minutes" value={minutes} error={errors.minutes} onChange={setMinutes} hideControls />
            <NativeSelect
              label="Wind"
              value={wind}
              data={[
                { value: "", label: "not noted" },
                { value: "0.5", label: "still: smoke rises" },
                { value: "1.5", label: "light: felt on the face" },
                { value: "3", label: "leaves move" },
                { value: "5", label: "twigs move" },
              ]}
              onChange={(e) => setWind(e.currentTarget.value)}
            />
          </Group>
          <Button type="submit" size="md">
            Begin
          </Button>
        </Stack>
      </form>
    </main>
  );
}

type TestProps = {
  site: string;
  zone: number;
  name: string;
  draft: Draft;
  setDraft: (draft: Draft | undefined) => void;
};

/** Steps two and three: the stopwatch, and the readings one after another. */
function Test({ site, zone, name, draft, setDraft }: TestProps) {
  const units = useUnits();
  const reckon = useReckon(site, zone);
  const add = useAddTest(site, zone);
  const view = useQuery(siteQuery(site));
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState<string>();
  const [done, setDone] = useState<Schemas["Added"]>();
  const { test, next } = draft;
  const read = readCount(test);
  const volume = test.container.kind === "volume";
  const unit = volume ? "mL" : units.label("depth");
  const result = reckon.data?.result ?? null;

  // What is there so far, once the page opens and after each change.
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked when the readings change, not when the mutation does
  useEffect(() => {
    if (read > 0 && !draft.finished) reckon.mutate(test);
  }, [JSON.stringify(test.cans), test.minutes]);

  const send = () =>
    add.mutate(
      { test, idempotency_key: draft.key },
      {
        onSuccess: (added) => {
          setDone(added);
          forgetDraft(site, zone);
        },
      },
    );
  // A finished test waits on this phone until the server has it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: sent when it is finished and whenever the connection returns
  useEffect(() => {
    if (!draft.finished || done) return;
    send();
    window.addEventListener("online", send);
    return () => window.removeEventListener("online", send);
  }, [draft.finished]);

  const change = (fate: Schemas["Fate"], reading?: number) => {
    const cans = test.cans.map((c) =>
      c.number === next ? { number: c.number, place: c.place, fate, ...(reading === undefined ? {} : { reading }) } : c,
    );
    const changed = { ...test, cans };
    setDraft({ ...draft, test: changed, next: nextUnread(changed, next) ?? next });
    setTyped("");
    setWrong(undefined);
  };
  const press = (digit: string) => {
    setWrong(undefined);
    setTyped((t) => (digit === "." && t.includes(".") ? t : (t + digit).slice(0, 7)));
  };
  const take = () => {
    if (typed === "" || typed === ".") {
      setWrong(`Type what can ${next} caught; 0 if it is dry.`);
      return;
    }
    const value = volume ? Number(typed) : units.toSi("depth", Number(typed));
    const most = test.container.kind === "volume" ? test.container.holds_ml : test.container.deep_mm;
    if (value > most) {
      const limit = volume ? `${most} mL` : units.show("depth", most);
      setWrong(`The can holds ${limit}: ${typed} ${unit} cannot be.`);
      return;
    }
    change("read", value);
  };
  const pick = (can: number) => {
    setTyped("");
    setWrong(undefined);
    setDraft({ ...draft, next: can });
  };

  if (done) {
    return (
      <Finished
        name={name}
        site={site}
        draft={draft}
        added={done}
        today={view.data?.today}
        onClose={() => setDraft(undefined)}
      />
    );
  }
  if (draft.finished) {
    return (
      <main className={classes.narrow}>
        <h1>{name}: sending</h1>
        <Text role="status">
          {read} of {test.cans.length} saved on this phone, sent when connected.
        </Text>
        {add.error && (add.error as ApiFailure).status !== 0 && <Refused error={add.error} />}
        <Button loading={add.isPending} onClick={send}>
          Send now
        </Button>
        <Button variant="outline" onClick={() => setDraft({ ...draft, finished: false })}>
          Back to the readings
        </Button>
      </main>
    );
  }
  const can = test.cans.find((c) => c.number === next);
  const offline = reckon.error && (reckon.error as ApiFailure).status === 0;
  return (
    <main className={classes.narrow}>
      <Group justify="space-between" align="baseline">
        <h1>
          Can {next} of {test.cans.length}
        </h1>
        <span className="quiet">
          {name}, {test.minutes} min
        </span>
      </Group>
      {read === 0 && (
        <Stopwatch minutes={test.minutes} onRan={(m) => setDraft({ ...draft, test: { ...test, minutes: m } })} />
      )}
      <PlanDrawing
        test={test}
        result={result}
        current={next}
        onPick={pick}
        tall="30vh"
        label={`Plan of ${name} with its cans`}
      />
      <div className={classes.soFar} role="status">
        {result ? (
          <>
            <span>{units.show("rate", result.rate_mm_h.value)} so far</span>
            <span>
              {result.evenness_du_lq
                ? `even ${result.evenness_du_lq.value.toFixed(2)}${result.rating ? `, ${RATINGS[result.rating]}` : ""}`
                : "evenness from four cans on"}
            </span>
          </>
        ) : (
          <span className="quiet">{offline ? "Not connected: readings are kept here." : "No can read yet."}</span>
        )}
      </div>
      <div className={classes.reading}>
        <output aria-label={`Reading of can ${next}`}>
          {typed || (can?.fate === "read" ? readingText(test, can.reading, units) : "")}
        </output>
        <span className="quiet">{unit}</span>
      </div>
      {wrong && (
        <Text role="alert" c="clay">
          {wrong}
        </Text>
      )}
      {reckon.error && !offline && <Refused error={reckon.error} />}
      <div className={classes.pad}>
        {["1", "2", "3", "4", "5", "6", "7", "8", "9"].map((d) => (
          <Button key={d} variant="default" onClick={() => press(d)}>
            {d}
          </Button>
        ))}
        <Button variant="default" aria-label="Delete the last digit" onClick={() => setTyped((t) => t.slice(0, -1))}>
          ⌫
        </Button>
        <Button variant="default" onClick={() => press("0")}>
          0
        </Button>
        <Button variant="default" aria-label="Decimal point" onClick={() => press(".")}>
          .
        </Button>
      </div>
      <Button size="lg" onClick={take}>
        Next
      </Button>
      <Group justify="space-between">
        <Button variant="subtle" size="xs" onClick={() => change("skipped")}>
          Skip this can
        </Button>
        <Button variant="subtle" size="xs" onClick={() => change("tipped_over")}>
          Tipped over
        </Button>
        <Button
          variant={read === test.cans.length ? "filled" : "subtle"}
          size="xs"
          disabled={read === 0}
          onClick={() => setDraft({ ...draft, finished: true })}
        >
          Finish with {read}
        </Button>
      </Group>
      <Text className="quiet" size="sm">
        A reading is mended by tapping its can. {read} of {test.cans.length} saved on this phone; reload only while
        connected.
      </Text>
      <NativeSelect
        label="Can to read"
        value={String(next)}
        data={test.cans.map((c) => ({
          value: String(c.number),
          label: `${c.number}: ${c.fate === "read" ? `${readingText(test, c.reading, units)} read` : c.fate.replace("_", " ")}`,
        }))}
        onChange={(e) => pick(Number(e.currentTarget.value))}
      />
      <Button variant="subtle" size="xs" color="clay" onClick={() => setDraft(undefined)}>
        Throw this test away
      </Button>
    </main>
  );
}

/** Times the run; its minutes go into the test. */
function Stopwatch({ minutes, onRan }: { minutes: number; onRan: (minutes: number) => void }) {
  const [begun, setBegun] = useState<number>();
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (begun === undefined) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [begun]);
  if (begun === undefined) {
    return (
      <Button
        variant="outline"
        onClick={() => {
          setNow(Date.now());
          setBegun(Date.now());
        }}
      >
        Start the stopwatch ({minutes} min)
      </Button>
    );
  }
  const seconds = Math.max(0, Math.round((now - begun) / 1000));
  return (
    <Stack gap="xs">
      <div className={classes.timer} role="timer">
        {minutesSeconds(seconds)}
      </div>
      <Button
        variant="outline"
        onClick={() => {
          onRan(Math.max(0.1, Math.round(seconds / 6) / 10));
          setBegun(undefined);
        }}
      >
        It stopped
      </Button>
    </Stack>
  );
}

type FinishedProps = {
  name: string;
  site: string;
  draft: Draft;
  added: Schemas["Added"];
  today: string | undefined;
  onClose: () => void;
};

function Finished({ name, site, draft, added, today, onClose }: FinishedProps) {
  const units = useUnits();
  const result: TestResult = added.result;
  return (
    <main className={classes.narrow}>
      <h1>
        {name}: {units.show("rate", result.rate_mm_h.value)}
        {result.evenness_du_lq ? `, even ${result.evenness_du_lq.value.toFixed(2)}` : ""}
      </h1>
      {result.rating && <Text>For such sprinklers that is {RATINGS[result.rating]}.</Text>}
      <PlanDrawing test={draft.test} result={result} label={`What the cans of ${name} caught`} />
      <ResultList result={result} />
      <h2>What it changes</h2>
      {added.changes.length === 0 || !today ? (
        <Text>Nothing in this week's plan.</Text>
      ) : (
        <ul className={classes.lines}>
          {added.changes.map((c) => (
            <li key={JSON.stringify(c)}>{sentenceCase(changeWords(c, today))}</li>
          ))}
        </ul>
      )}
      <Group>
        <Button component={Link} to={`/site/${site}/sprinklers`} onClick={onClose}>
          All sprinklers
        </Button>
        <Button component={Link} to={`/site/${site}/week`} variant="outline" onClick={onClose}>
          The week
        </Button>
      </Group>
    </main>
  );
}
