// What is wrong with the heads of a zone: noted while walking, repaired, remembered.
import { Button, NativeSelect, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { newKey } from "../../key";
import { dayMonth, sentenceCase } from "../../time";
import { FigureField, useFigures } from "../forms/figures";
import { Sure, useSure } from "../forms/Sure";
import { Refused } from "../shell/States";
import { type HeadFault, useNoteFault, useReopen, useRepair } from "./queries";
import own from "./Sprinklers.module.css";
import { FAULTS } from "./words";

type Props = { site: string; zone: number; name: string; today: string; faults: HeadFault[]; record: boolean };

export function Heads({ site, zone, name, today, faults, record }: Props) {
  const repair = useRepair(site);
  const reopen = useReopen(site);
  const open = faults.filter((f) => !f.mended_on);
  const repaired = faults.filter((f) => f.mended_on);
  if (faults.length === 0 && !record) return null;
  return (
    <details>
      <summary>
        Heads: {open.length === 0 ? "none to repair" : `${open.length} to repair`}
        {open.some((f) => f.due_on && f.due_on <= today) && ", due now"}
      </summary>
      <Refused error={repair.error ?? reopen.error} />
      {open.length > 0 && (
        <table className={own.heads}>
          <caption className="hidden">Heads of {name} to be repaired</caption>
          <thead>
            <tr>
              <th scope="col">Head</th>
              <th scope="col">What</th>
              <th scope="col">Noted</th>
              <th scope="col">Due</th>
              {record && <th scope="col">Done</th>}
            </tr>
          </thead>
          <tbody>
            {open.map((f) => (
              <tr key={f.id}>
                <th scope="row">{f.head}</th>
                <td>
                  {FAULTS[f.fault]}
                  {f.note && `: ${f.note}`}
                </td>
                <td>
                  {dayMonth(f.noted_on)}
                  {f.who && `, ${f.who}`}
                </td>
                <td>{f.due_on ? `${dayMonth(f.due_on)}${f.due_on < today ? ", overdue" : ""}` : "–"}</td>
                {record && (
                  <td>
                    <Button
                      size="xs"
                      variant="outline"
                      aria-label={`Repaired, head ${f.head} of ${name}`}
                      loading={repair.isPending && repair.variables === f.id}
                      onClick={() => repair.mutate(f.id)}
                    >
                      Repaired
                    </Button>
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {record && <NoteFault site={site} zone={zone} name={name} />}
      {repaired.length > 0 && (
        <ul className={own.lines} aria-label={`Heads of ${name} that were repaired`}>
          {repaired.map((f) => (
            <li key={f.id} className="quiet">
              {f.mended_on && dayMonth(f.mended_on)}: head {f.head} repaired ({FAULTS[f.fault]}
              {f.note && `: ${f.note}`}){f.mended_by && `, ${f.mended_by}`}; noted {dayMonth(f.noted_on)}
              {f.who && ` by ${f.who}`}
              {record && (
                <Button
                  size="compact-sm"
                  variant="subtle"
                  aria-label={`Not repaired after all, head ${f.head} of ${name}`}
                  loading={reopen.isPending && reopen.variables === f.id}
                  onClick={() => reopen.mutate(f.id)}
                >
                  Not repaired after all
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}

/** A head that is noted while the zone is walked. */
export function NoteFault({ site, zone, name }: { site: string; zone: number; name: string }) {
  const note = useNoteFault(site, zone);
  const [key, setKey] = useState(newKey);
  const figures = useFigures({});
  const ask = useSure();
  const [fault, setFault] = useState<Schemas["Fault"]>("clogged");
  const [due, setDue] = useState("");
  const [words, setWords] = useState("");
  const [missing, setMissing] = useState<string>();
  const refused = note.error instanceof ApiFailure && !note.error.problem?.unlikely ? note.error : undefined;
  const at = (field: string) => (refused?.problem?.field === field ? sentenceCase(refused.message) : undefined);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const head = figures.si("head");
    const whole = head !== undefined && Number.isInteger(head) && head >= 1;
    setMissing(figures.text("head") === "" ? "Which?" : whole ? undefined : "A whole number from 1 on.");
    if (!head || !whole) return;
    ask.unlessUnlikely((sure) =>
      note
        .mutateAsync({
          head,
          fault,
          sure,
          idempotency_key: key,
          ...(due ? { due_on: due } : {}),
          ...(words.trim() ? { note: words.trim() } : {}),
        })
        .then(() => {
          setKey(newKey());
          figures.fill({ head: undefined });
          setDue("");
          setWords("");
        }),
    );
  };
  return (
    <form onSubmit={submit} noValidate className={own.faultForm} aria-label={`Note a head of ${name}`}>
      <FigureField figures={figures} name="head" label="Head" error={missing ?? at("head")} />
      <NativeSelect
        label="What is wrong"
        value={fault}
        data={Object.entries(FAULTS).map(([value, label]) => ({ value, label }))}
        onChange={(e) => setFault(e.currentTarget.value as Schemas["Fault"])}
      />
      <TextInput
        type="date"
        label="Due"
        value={due}
        error={at("due_on")}
        onChange={(e) => setDue(e.currentTarget.value)}
      />
      <TextInput
        label="Note"
        value={words}
        maxLength={200}
        error={at("note")}
        onChange={(e) => setWords(e.currentTarget.value)}
      />
      <Button type="submit" variant="outline" loading={note.isPending}>
        Note it
      </Button>
      {(ask.asked || !refused?.problem?.field) && <Sure ask={ask} timeZone="UTC" />}
    </form>
  );
}
