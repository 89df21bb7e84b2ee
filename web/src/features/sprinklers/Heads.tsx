// What is wrong with the heads of a zone: noted while walking, mended, remembered.
import { Button, NativeSelect, NumberInput, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { newKey } from "../../key";
import { dayMonth, sentenceCase } from "../../time";
import { Refused } from "../shell/States";
import { type HeadFault, useMend, useNoteFault } from "./queries";
import own from "./Sprinklers.module.css";
import { FAULTS } from "./words";

type Props = { site: string; zone: number; name: string; today: string; faults: HeadFault[]; record: boolean };

export function Heads({ site, zone, name, today, faults, record }: Props) {
  const mend = useMend(site);
  const open = faults.filter((f) => !f.mended_on);
  const mended = faults.filter((f) => f.mended_on);
  if (faults.length === 0 && !record) return null;
  return (
    <details>
      <summary>
        Heads: {open.length === 0 ? "nothing to mend" : `${open.length} to mend`}
        {open.some((f) => f.due_on && f.due_on <= today) && ", due now"}
      </summary>
      <Refused error={mend.error} />
      {open.length > 0 && (
        <table className={own.heads}>
          <caption className="hidden">Heads of {name} to be mended</caption>
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
                      aria-label={`Mended, head ${f.head} of ${name}`}
                      loading={mend.isPending && mend.variables === f.id}
                      onClick={() => mend.mutate(f.id)}
                    >
                      Mended
                    </Button>
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {record && <NoteFault site={site} zone={zone} name={name} />}
      {mended.length > 0 && (
        <ul className={own.lines} aria-label={`Heads of ${name} that were mended`}>
          {mended.map((f) => (
            <li key={f.id} className="quiet">
              {f.mended_on && dayMonth(f.mended_on)}: head {f.head} mended ({FAULTS[f.fault]}
              {f.note && `: ${f.note}`}){f.mended_by && `, ${f.mended_by}`}; noted {dayMonth(f.noted_on)}
              {f.who && ` by ${f.who}`}
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}

function NoteFault({ site, zone, name }: { site: string; zone: number; name: string }) {
  const note = useNoteFault(site, zone);
  const [key, setKey] = useState(newKey);
  const [head, setHead] = useState<number | string>("");
  const [fault, setFault] = useState<Schemas["Fault"]>("clogged");
  const [due, setDue] = useState("");
  const [words, setWords] = useState("");
  const [missing, setMissing] = useState<string>();
  const refused = note.error instanceof ApiFailure ? note.error : undefined;
  const at = (field: string) => (refused?.problem?.field === field ? sentenceCase(refused.message) : undefined);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (head === "") {
      setMissing("Which?");
      return;
    }
    setMissing(undefined);
    note.mutate(
      {
        head: Number(head),
        fault,
        idempotency_key: key,
        ...(due ? { due_on: due } : {}),
        ...(words.trim() ? { note: words.trim() } : {}),
      },
      {
        onSuccess: () => {
          setKey(newKey());
          setHead("");
          setDue("");
          setWords("");
        },
      },
    );
  };
  return (
    <form onSubmit={submit} noValidate className={own.faultForm} aria-label={`Note a head of ${name}`}>
      <NumberInput
        label="Head"
        value={head}
        min={1}
        allowDecimal={false}
        error={missing ?? at("head")}
        onChange={setHead}
        hideControls
      />
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
      {refused && !refused.problem?.field && <Refused error={refused} />}
    </form>
  );
}
