// What ran of late: assumed from the plan until somebody says ran, did not run, or other minutes. One tap each.
import { ActionIcon, Button, Group, NumberInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api";
import { addDays, clock, minutes, sentenceCase, whenDay } from "../../time";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { minutesProblem } from "./minutesProblem";
import { NoteWatering } from "./NoteWatering";
import { runsQuery, useAnswer } from "./queries";
import classes from "./Ran.module.css";

type Run = Schemas["RunView"];

const DAYS_BACK = 2;

export function Ran({ site, today, timeZone }: { site: string; today: string; timeZone: string }) {
  const runs = useQuery(runsQuery(site, addDays(today, -DAYS_BACK), today));
  const rights = useRights(site);
  const answer = useAnswer(site);
  const days = [...new Set((runs.data ?? []).map((r) => r.date))];
  return (
    <section>
      <h2>What ran</h2>
      <Refused error={runs.error ?? answer.error} />
      {runs.isPending && <p className={classes.plain}>Loading …</p>}
      {runs.data && days.length === 0 && <p className={classes.plain}>Nothing in the last two days.</p>}
      {days.map((date) => {
        const ofDay = (runs.data ?? []).filter((r) => r.date === date).reverse();
        const open = ofDay.filter((r) => r.source === "assumed");
        return (
          <div key={date}>
            <div className={classes.day}>
              <h3>{sentenceCase(whenDay(date, today))}</h3>
              {rights.record && open.length > 1 && (
                <Button
                  size="xs"
                  variant="outline"
                  loading={answer.isPending}
                  onClick={() => {
                    for (const run of open) answer.mutate({ run: run.id, answer: { answer: "ran" } });
                  }}
                >
                  All {open.length} ran
                </Button>
              )}
            </div>
            <ul className={classes.runs} aria-label={`Runs of ${whenDay(date, today)}`}>
              {ofDay.map((run) => (
                <RunLine
                  key={run.id}
                  run={run}
                  timeZone={timeZone}
                  mayAnswer={rights.record}
                  onAnswer={(said) => answer.mutate({ run: run.id, answer: said })}
                />
              ))}
            </ul>
          </div>
        );
      })}
      {rights.record && <NoteWatering site={site} />}
    </section>
  );
}

const WORDS: Record<string, string> = {
  assumed: "as planned?",
  confirmed: "ran",
  changed: "ran",
  denied: "did not run",
  hand: "by hand",
  hose: "by hose",
};

type LineProps = {
  run: Run;
  timeZone: string;
  mayAnswer: boolean;
  onAnswer: (answer: Schemas["Answer"]) => void;
};

function RunLine({ run, timeZone, mayAnswer, onAnswer }: LineProps) {
  const [changing, setChanging] = useState(false);
  const [value, setValue] = useState<number | string>(Math.round(run.seconds / 60));
  const [wrong, setWrong] = useState<string>();
  const open = run.source === "assumed";
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const wrong = minutesProblem(value);
    setWrong(wrong);
    if (wrong) return;
    onAnswer({ answer: "changed", seconds: Math.round(Number(value) * 60) });
    setChanging(false);
  };
  return (
    <li className={classes.run} data-source={run.source}>
      <span className={classes.what}>
        <strong>{run.zone_name}</strong>
        <span>
          {run.source === "denied" ? "" : `${minutes(run.seconds)} at ${clock(run.started_at, timeZone)}, `}
          {open && !mayAnswer ? "assumed from the plan" : WORDS[run.source]}
          {run.who ? ` (${run.who})` : ""}
        </span>
      </span>
      {mayAnswer && !changing && (
        <span className={classes.answers}>
          {open && (
            <ActionIcon
              variant="outline"
              size={36}
              aria-label={`${run.zone_name} ran`}
              onClick={() => onAnswer({ answer: "ran" })}
            >
              ✓
            </ActionIcon>
          )}
          {run.source !== "denied" && (
            <ActionIcon
              variant="outline"
              color="clay"
              size={36}
              aria-label={`${run.zone_name} did not run`}
              onClick={() => onAnswer({ answer: "did_not_run" })}
            >
              ✕
            </ActionIcon>
          )}
          <ActionIcon
            variant="outline"
            size={36}
            aria-label={`${run.zone_name}: other minutes`}
            onClick={() => setChanging(true)}
          >
            …
          </ActionIcon>
        </span>
      )}
      {changing && (
        <form onSubmit={submit} className={classes.change}>
          <NumberInput
            label="Minutes that it ran"
            value={value}
            error={wrong}
            onChange={setValue}
            size="xs"
            hideControls
          />
          <Group gap="xs">
            <Button type="submit" size="xs">
              Note
            </Button>
            <Button size="xs" variant="outline" onClick={() => setChanging(false)}>
              Never mind
            </Button>
          </Group>
        </form>
      )}
    </li>
  );
}
