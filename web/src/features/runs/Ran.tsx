// What ran: assumed from the plan until somebody says ran, did not run, or other minutes. One tap each, and one tap takes it back.
import { ActionIcon, Button, Group } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api";
import type { Shown } from "../../quantities";
import { addDays, clock, minutes, sentenceCase, whenDay } from "../../time";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import { Sure, useSure } from "../forms/Sure";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { hoseWords } from "./credit";
import { minutesProblem } from "./minutesProblem";
import { NoteWatering } from "./NoteWatering";
import { DAYS_OPEN, recentRunsQuery, useAnswer, useConfirm, useTakeBack } from "./queries";
import classes from "./Ran.module.css";

type Run = Schemas["RunView"];

/** Days of which Morning shows the runs. */
const DAYS_BACK = 2;

export function Ran({ site, today, timeZone }: { site: string; today: string; timeZone: string }) {
  const runs = useQuery(recentRunsQuery(site, today));
  const rights = useRights(site);
  const recent = (runs.data ?? []).filter((r) => r.date >= addDays(today, -DAYS_BACK));
  const assumed = (runs.data ?? []).filter((r) => r.source === "assumed").length;
  return (
    <section>
      <h2>What ran</h2>
      <Refused error={runs.error} />
      {runs.isPending && <p className={classes.plain}>Loading …</p>}
      {runs.data && recent.length === 0 && <p className={classes.plain}>Nothing in the last two days.</p>}
      <RunDays site={site} runs={recent} today={today} timeZone={timeZone} brief />
      {runs.data && (
        <p className={classes.plain}>
          <Link to="/site/$site/runs" params={{ site }}>
            {assumed > 0
              ? `${assumed} run${assumed === 1 ? "" : "s"} of the last ${DAYS_OPEN} days ${assumed === 1 ? "is" : "are"} only assumed`
              : `The last ${DAYS_OPEN} days`}
          </Link>
        </p>
      )}
      {rights.record && <NoteWatering site={site} />}
    </section>
  );
}

/** `brief`: many short runs by hand of a zone's day are one line. */
type DaysProps = { site: string; runs: Run[]; today: string; timeZone: string; brief?: boolean };

/** Runs by day, newest first. */
export function RunDays({ site, runs, today, timeZone, brief }: DaysProps) {
  const rights = useRights(site);
  const confirm = useConfirm(site);
  const days = [...new Set(runs.map((r) => r.date))];
  return (
    <>
      <Refused error={confirm.error} />
      {days.map((date) => {
        const ofDay = runs.filter((r) => r.date === date).reverse();
        const open = ofDay.filter((r) => r.source === "assumed");
        return (
          <div key={date}>
            <div className={classes.day}>
              <h3>{sentenceCase(whenDay(date, today))}</h3>
              {rights.record && open.length > 1 && (
                <Button
                  size="sm"
                  variant="outline"
                  loading={confirm.isPending}
                  onClick={() => confirm.mutate(open.map((run) => run.id))}
                >
                  All {open.length} ran
                </Button>
              )}
            </div>
            <ul className={classes.runs} aria-label={`Runs of ${whenDay(date, today)}`}>
              {brief && together(ofDay).map((runs) => <Together key={runs[0]?.zone} runs={runs} />)}
              {(brief ? ofDay.filter((run) => !isOneOfMany(run, ofDay)) : ofDay).map((run) => (
                <RunLine key={`${run.zone} ${run.started_at}`} site={site} run={run} timeZone={timeZone} />
              ))}
            </ul>
          </div>
        );
      })}
    </>
  );
}

/** From so many runs by hand of a zone on a day they are told together. */
const MANY = 3;

const isOneOfMany = (run: Run, ofDay: Run[]) =>
  run.source === "hand" && ofDay.filter((r) => r.source === "hand" && r.zone === run.zone).length >= MANY;

/** The runs by hand of each zone that had many. */
function together(ofDay: Run[]): Run[][] {
  const many = ofDay.filter((run) => isOneOfMany(run, ofDay));
  return [...new Set(many.map((run) => run.zone))].map((zone) => many.filter((run) => run.zone === zone));
}

function Together({ runs }: { runs: Run[] }) {
  const who = [...new Set(runs.map((run) => run.who).filter(Boolean))].join(", ");
  return (
    <li className={classes.run}>
      <span className={classes.what}>
        <strong>{runs[0]?.zone_name}</strong>
        <span>
          {runs.length} runs by hand, {minutes(runs.reduce((sum, run) => sum + run.seconds, 0))} in all
          {who && ` (${who})`}
        </span>
      </span>
    </li>
  );
}

const WORDS: Record<Run["source"], string> = {
  assumed: "as planned?",
  confirmed: "ran",
  changed: "ran",
  denied: "did not run",
  hand: "by hand",
  hose: "by hose",
  controller: "the controller says",
};

/** What is said of a run, without its zone. */
function runWords(run: Run, timeZone: string, mayAnswer: boolean, units: Shown): string {
  const words = run.source === "assumed" && !mayAnswer ? "assumed from the plan" : WORDS[run.source];
  const who = run.who ? ` (${run.who})` : "";
  if (run.source === "denied") return `${words}${who}`;
  if (run.source === "controller" && run.seconds === 0) return "did not run, the controller says";
  const planned =
    (run.source === "changed" || run.source === "controller") && run.planned_s != null && run.planned_s !== run.seconds
      ? `, planned ${minutes(run.planned_s)}`
      : "";
  const part =
    run.watered.by === "unmeasured"
      ? "; not counted: nobody says how much"
      : run.watered.by === "hose" || run.watered.share < 0.995
        ? `; ${hoseWords(run.watered, units)}`
        : "";
  return `${minutes(run.seconds)} at ${clock(run.started_at, timeZone)}, ${words}${who}${planned}${part}`;
}

function RunLine({ site, run, timeZone }: { site: string; run: Run; timeZone: string }) {
  const rights = useRights(site);
  const units = useUnits();
  const answer = useAnswer(site);
  const takeBack = useTakeBack(site);
  const [changing, setChanging] = useState(false);
  const open = run.source === "assumed";
  const name = run.zone_name;
  const say = (said: Schemas["Answer"]) => answer.mutate({ run: run.id, answer: said });
  return (
    <li className={classes.run} data-source={run.source}>
      <span className={classes.what}>
        <strong>{name}</strong>
        <span>{runWords(run, timeZone, rights.record, units)}</span>
      </span>
      {rights.record && !changing && (
        <span className={classes.answers}>
          {open ? (
            <>
              <ActionIcon variant="outline" size={44} aria-label={`${name} ran`} onClick={() => say({ answer: "ran" })}>
                ✓
              </ActionIcon>
              <ActionIcon
                variant="outline"
                color="clay"
                size={44}
                aria-label={`${name} did not run`}
                onClick={() => say({ answer: "did_not_run" })}
              >
                ✕
              </ActionIcon>
            </>
          ) : run.source === "controller" ? null : (
            <Button
              variant="outline"
              size="sm"
              className={classes.back}
              loading={takeBack.isPending}
              aria-label={`Take it back, ${name}`}
              onClick={() => takeBack.mutate(run.id)}
            >
              Take it back
            </Button>
          )}
          <ActionIcon
            variant="outline"
            size={44}
            aria-label={`${name}: other minutes`}
            onClick={() => setChanging(true)}
          >
            …
          </ActionIcon>
        </span>
      )}
      {changing && <OtherMinutes site={site} run={run} timeZone={timeZone} onDone={() => setChanging(false)} />}
      {(answer.error || takeBack.error) && <Refused error={answer.error ?? takeBack.error} />}
    </li>
  );
}

function OtherMinutes(props: { site: string; run: Run; timeZone: string; onDone: () => void }) {
  const { run, onDone } = props;
  const answer = useAnswer(props.site);
  const ask = useSure();
  const seconds = run.seconds > 0 ? run.seconds : (run.planned_s ?? 0);
  const figures = useFigures({ minutes: Math.round(seconds / 6) / 10 });
  const [wrong, setWrong] = useState<string>();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const found = minutesProblem(figures.text("minutes"));
    setWrong(found);
    if (found) return;
    const seconds = Math.round((figures.si("minutes") ?? 0) * 60);
    ask.unlessUnlikely((sure) =>
      answer.mutateAsync({ run: run.id, answer: { answer: "changed", seconds, sure } }).then(onDone),
    );
  };
  return (
    <form onSubmit={submit} className={classes.change} noValidate>
      <FigureField figures={figures} name="minutes" label="Minutes that it ran" error={wrong} />
      <Group gap="xs">
        <Button type="submit" size="md" loading={answer.isPending}>
          Note
        </Button>
        <Button size="md" variant="outline" onClick={onDone}>
          Cancel
        </Button>
      </Group>
      <Sure ask={ask} timeZone={props.timeZone} />
    </form>
  );
}
