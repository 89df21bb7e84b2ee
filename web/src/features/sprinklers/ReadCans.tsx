// The stopwatch, and the readings one after another. What is typed stays with the pad, so that a digit redraws the pad alone.
import { Alert, Button, Group, NativeSelect, Text } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import type { ApiFailure, Schemas } from "../../api";
import { newKey } from "../../key";
import { shownIn } from "../../quantities";
import { useUnits } from "../../units";
import { unlikelyWords } from "../forms/Sure";
import { Refused } from "../shell/States";
import { type Draft, nextUnread, readCount, readingText, readsDepth } from "./draft";
import { PlanDrawing } from "./PlanDrawing";
import { useResult, withCans } from "./queries";
import classes from "./Sprinklers.module.css";
import { Stopwatch } from "./Stopwatch";
import { RATINGS } from "./words";

type Props = {
  site: string;
  zone: number;
  name: string;
  draft: Draft;
  setDraft: (draft: Draft | undefined) => void;
};

export function ReadCans({ site, zone, name, draft, setDraft }: Props) {
  const units = useUnits();
  const compute = useResult(site, zone);
  const { test, next } = draft;
  const read = readCount(test);
  const result = compute.data?.result ?? null;

  // What is there so far, once the page opens and after each change.
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked when the readings change, not when the mutation does
  useEffect(() => {
    if (read > 0) compute.mutate(withCans(test));
  }, [JSON.stringify(test.cans), test.minutes]);

  const change = (fate: Schemas["Fate"], reading?: number) => {
    const cans = test.cans.map((c) =>
      c.number === next ? { number: c.number, place: c.place, fate, ...(reading === undefined ? {} : { reading }) } : c,
    );
    const changed = { ...test, cans };
    const own = draft.sent ? { key: newKey(), sent: false } : {};
    setDraft({ ...draft, ...own, test: changed, next: nextUnread(changed, next) ?? next });
  };
  const pick = (can: number) => setDraft({ ...draft, next: can });
  // The drawing is made again only when what it shows has changed; a tap still reaches the newest draft.
  const newest = useRef(draft);
  newest.current = draft;
  const [tap] = useState(() => (x: number, y: number) => {
    const { test } = newest.current;
    const far = (p: { x_m: number; y_m: number }) => Math.hypot(p.x_m - x, p.y_m - y);
    const nearest = test.cans.reduce((a, b) => (far(b.place) < far(a.place) ? b : a));
    setDraft({ ...newest.current, next: nearest.number });
  });

  const can = test.cans.find((c) => c.number === next);
  const offline = compute.error && (compute.error as ApiFailure).status === 0;
  const looks = result?.patterns[0];
  // A can that caught many times what the others did is asked about once.
  const [seen, setSeen] = useState<number>();
  const unlikely = compute.data?.odd;
  const odd = unlikely?.unlikely === "odd_can" ? unlikely.can : undefined;
  const oddWords = unlikely ? unlikelyWords(unlikely, "UTC", units) : "";
  const whole = read === test.cans.length;
  return (
    <main className={classes.readCans}>
      <div className={classes.seen}>
        <Group justify="space-between" align="baseline">
          <h1>
            Can {next} of {test.cans.length}
          </h1>
          <span className="quiet">
            {name}, {test.minutes} min
          </span>
        </Group>
        {read === 0 && (
          <Stopwatch
            start={`Start the stopwatch (${test.minutes} min)`}
            take="It stopped"
            onTime={(m) => setDraft({ ...draft, test: { ...test, minutes: m } })}
          />
        )}
        <PlanDrawing
          test={test}
          result={result}
          current={next}
          onTap={tap}
          tall="var(--plan-height)"
          label={`Plan of ${name} with its cans`}
        />
        <Text className="quiet" size="sm">
          In the rings: {readsDepth(test) ? `depth read, ${units.label("depth")}` : "volume read, mL"}; dashed: the
          can’s number, not read yet.
        </Text>
        <div className={classes.soFar} role="status">
          {result ? (
            <>
              <span>{units.show("rate", result.rate_mm_h.value)} so far</span>
              <span>
                {result.evenness_du_lq
                  ? `even ${result.evenness_du_lq.value.toFixed(2)}${result.rating ? `, ${RATINGS[result.rating]}` : ""}`
                  : "evenness from four cans on"}
              </span>
              {looks?.pattern === "dry_side" && <span className={classes.looks}>drier to the {looks.side}</span>}
              {looks?.pattern === "weak_head" && <span className={classes.looks}>head {looks.head} gives little</span>}
            </>
          ) : (
            <span className="quiet">
              {offline
                ? `Not connected: ${read} of ${test.cans.length} kept on this phone, sent when connected.`
                : read > 0
                  ? "Working it out …"
                  : "No can read yet."}
            </span>
          )}
        </div>
      </div>
      <div className={classes.seen}>
        <Pad
          key={`${next} ${JSON.stringify(can)}`}
          can={next}
          known={can?.fate === "read" ? readingText(test, can.reading, units) : ""}
          test={test}
          onTake={(value) => change("read", value)}
          last={whole}
        />
        {odd && odd !== seen && (
          <Alert color="straw" variant="outline" role="alert" title="Really?">
            <Text mb="xs">{oddWords}</Text>
            <Group gap="xs">
              <Button size="sm" onClick={() => setSeen(odd)}>
                Yes, it is so
              </Button>
              <Button size="sm" variant="outline" onClick={() => odd && pick(odd)}>
                Read it again
              </Button>
            </Group>
          </Alert>
        )}
        {compute.error && !offline && <Refused error={compute.error} />}
        <Group justify="space-between">
          <Button variant="subtle" size="xs" onClick={() => change("skipped")}>
            Skip this can
          </Button>
          <Button variant="subtle" size="xs" onClick={() => change("tipped_over")}>
            Tipped over
          </Button>
          {!whole && (
            <Button
              variant="subtle"
              size="xs"
              disabled={read === 0}
              onClick={() => setDraft({ ...draft, finished: true })}
            >
              Finish with {read}
            </Button>
          )}
        </Group>
        {whole && (
          <Button size="lg" onClick={() => setDraft({ ...draft, finished: true })}>
            Finish with {read}
          </Button>
        )}
        <Text className="quiet" size="sm">
          Tap a can to change its reading. {read} of {test.cans.length} saved on this phone; reload only while
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
      </div>
    </main>
  );
}

type PadProps = {
  can: number;
  /** What was read before. */
  known: string;
  test: Draft["test"];
  onTake: (value: number) => void;
  /** Whether every can is read: then finishing is what comes next. */
  last: boolean;
};

function Pad({ can, known, test, onTake, last }: PadProps) {
  const units = useUnits();
  const [typed, setTyped] = useState("");
  // What is typed keeps its depth when the units are switched.
  const [typedIn, setTypedIn] = useState(units.system);
  if (typedIn !== units.system) {
    if (readsDepth(test) && typed !== "" && typed !== ".")
      setTyped(units.toField("depth", shownIn(typedIn).toSi("depth", Number(typed))).slice(0, 7));
    setTypedIn(units.system);
  }
  const [wrong, setWrong] = useState<string>();
  const depth = readsDepth(test);
  const unit = depth ? units.label("depth") : "mL";
  const press = (digit: string) => {
    setWrong(undefined);
    setTyped((t) => (digit === "." && t.includes(".") ? t : (t + digit).slice(0, 7)));
  };
  const take = () => {
    if (typed === "" || typed === ".") {
      setWrong(`Type what can ${can} caught; 0 if it is dry.`);
      return;
    }
    const value = depth ? units.toSi("depth", Number(typed)) : Number(typed);
    const { container } = test;
    const most = container.kind === "straight" ? container.deep_mm : container.holds_ml;
    if (value > most) {
      const limit = depth ? units.show("depth", most) : `${most} mL`;
      setWrong(`The can holds ${limit}: ${typed} ${unit} cannot be.`);
      return;
    }
    onTake(value);
  };
  // On a desk digits are typed; buttons and lists keep their own keys.
  const keys = useRef<(event: KeyboardEvent) => void>(() => {});
  keys.current = (event) => {
    const on = event.target instanceof Element ? event.target.closest("button, select, input, a, summary") : null;
    if (event.ctrlKey || event.metaKey || event.altKey || (on && on.tagName !== "BUTTON")) return;
    if (/^[0-9.]$/.test(event.key)) press(event.key);
    else if (event.key === ",") press(".");
    else if (event.key === "Backspace") setTyped((t) => t.slice(0, -1));
    else if (event.key === "Enter" && !on) take();
  };
  useEffect(() => {
    const listen = (event: KeyboardEvent) => keys.current(event);
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
  return (
    <>
      <div className={classes.reading}>
        <output aria-label={`Reading of can ${can}`}>{typed || known}</output>
        <span className="quiet">{unit}</span>
      </div>
      {wrong && (
        <Text role="alert" c="clay">
          {wrong}
        </Text>
      )}
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
      <Button size="lg" variant={last ? "outline" : "filled"} onClick={take}>
        Next
      </Button>
    </>
  );
}
