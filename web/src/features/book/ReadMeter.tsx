// A meter is read: the figure as it stands on the dial, now or some time before, with a photo; what is odd about it is asked.
import { Alert, Button, FileButton, Group, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { type FormEvent, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { newKey } from "../../key";
import { parse } from "../../numbers";
import { clock, localDate } from "../../time";
import { useUnits } from "../../units";
import { unlikelyWords } from "../forms/Sure";
import { Refused } from "../shell/States";
import { asBlob, small } from "../soil/picture";
import classes from "./Book.module.css";
import { type MeterView, type Reading, useRead } from "./queries";
import { countWords } from "./words";

type Unlikely = Schemas["Unlikely"];
type Follows = Schemas["ReadingFollows"];
type Body = Schemas["NewMeterReading"];

type Props = {
  site: string;
  meter: MeterView;
  now: string;
  timeZone: string;
  /** The reading that is corrected. */
  corrects?: Reading | undefined;
  onDone: () => void;
};

export function ReadMeter({ site, meter, now, timeZone, corrects, onDone }: Props) {
  const units = useUnits();
  const at = corrects?.at ?? now;
  const [typed, setTyped] = useState(corrects ? String(corrects.register) : "");
  const [date, setDate] = useState(localDate(at, timeZone));
  const [time, setTime] = useState(clock(at, timeZone));
  const [timed, setTimed] = useState(false);
  const [photo, setPhoto] = useState<Blob>();
  const [changed, setChanged] = useState<{ old: string; began: string }>();
  const [key, setKey] = useState(newKey);
  const [problem, setProblem] = useState<string>();
  const read = useRead(site, meter.id, () => {
    notifications.show({ message: corrects ? "Corrected." : "Written." });
    onDone();
  });
  const failure = read.error instanceof ApiFailure ? read.error.problem : undefined;
  const asked = failure?.unlikely;

  const send = (more: Partial<Body>) => {
    const register = parse(typed);
    if (more.register === undefined && register === undefined) {
      setProblem(typed.trim() === "" ? "Type the figure on the dial." : `“${typed.trim()}” is not a number.`);
      return;
    }
    setProblem(undefined);
    const follows: Follows | undefined = changed && {
      follows: "new_meter",
      ...(parse(changed.old) === undefined ? {} : { old_register: parse(changed.old) ?? null }),
      began_with: parse(changed.began) ?? 0,
    };
    const body: Body = {
      register: register ?? 0,
      ...(timed ? { read_at: `${date}T${time}:00` } : {}),
      ...(follows ? { follows } : corrects ? { follows: corrects.follows } : {}),
      ...(corrects ? { replaces: corrects.id } : {}),
      ...more,
      idempotency_key: key,
    };
    read.mutate({ body, photo });
  };
  const again = () => {
    // Another figure is another reading.
    setKey(newKey());
    read.reset();
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    send({});
  };
  const wrong = (field: string) => (failure?.field === field && !asked ? failure.detail : undefined);
  const placed = ["register", "read_at", "old_register", "began_with"].includes(failure?.field ?? "");
  return (
    <form onSubmit={submit} className={classes.read} aria-label={`Read ${meter.meter.name}`}>
      <TextInput
        label={`${changed ? "Figure of the new meter" : "Figure on the dial"}, ${countWords(meter.meter)}`}
        description={`${meter.meter.digits} digits${meter.meter.decimals ? ` and ${meter.meter.decimals} after the point` : ""}${
          meter.last && !corrects ? `; last ${meter.last.register}` : ""
        }.`}
        inputMode="decimal"
        autoComplete="off"
        size="lg"
        classNames={{ input: classes.dial ?? "" }}
        value={typed}
        error={problem ?? wrong("register")}
        onChange={(e) => {
          setTyped(e.currentTarget.value);
          again();
        }}
      />
      {timed ? (
        <Group align="start">
          <TextInput
            type="date"
            label="Read on"
            value={date}
            error={wrong("read_at")}
            onChange={(e) => {
              setDate(e.currentTarget.value);
              again();
            }}
          />
          <TextInput
            type="time"
            label="at"
            value={time}
            onChange={(e) => {
              setTime(e.currentTarget.value);
              again();
            }}
          />
        </Group>
      ) : null}
      {changed && (
        <Group align="start" grow>
          <TextInput
            label="Last figure of the old meter, if it was read"
            inputMode="decimal"
            value={changed.old}
            error={wrong("old_register")}
            onChange={(e) => {
              setChanged({ ...changed, old: e.currentTarget.value });
              again();
            }}
          />
          <TextInput
            label="First figure of the new one"
            inputMode="decimal"
            value={changed.began}
            error={wrong("began_with")}
            onChange={(e) => {
              setChanged({ ...changed, began: e.currentTarget.value });
              again();
            }}
          />
        </Group>
      )}
      {asked && (
        <Question
          asked={asked}
          words={unlikelyWords(asked, timeZone, units)}
          timeZone={timeZone}
          onMeant={(register) => {
            setTyped(String(register));
            again();
          }}
          onSend={send}
          onChanged={() => {
            setChanged({ old: "", began: "0" });
            again();
          }}
        />
      )}
      {read.error && !asked && !placed && <Refused error={read.error} />}
      <Group gap="xs">
        {!asked && (
          <Button type="submit" loading={read.isPending} size="md">
            {corrects ? "Correct it" : "Write it down"}
          </Button>
        )}
        <FileButton accept="image/*" onChange={(file) => file && small(file).then(asBlob).then(setPhoto)}>
          {(props) => (
            <Button {...props} size="md" variant="outline">
              {photo ? "Another photo" : "Add a photo"}
            </Button>
          )}
        </FileButton>
        {!timed && (
          <Button variant="subtle" size="md" onClick={() => setTimed(true)}>
            Not read just now
          </Button>
        )}
        <Button variant="subtle" size="md" onClick={onDone}>
          Leave it
        </Button>
      </Group>
      {photo && <Text className="quiet">A photo goes with it.</Text>}
    </form>
  );
}

type QuestionProps = {
  asked: Unlikely;
  words: string;
  timeZone: string;
  onMeant: (register: number) => void;
  onSend: (more: Partial<Body>) => void;
  onChanged: () => void;
};

/** What is odd, and what may be behind it: each a way on. */
function Question({ asked, words, timeZone, onMeant, onSend, onChanged }: QuestionProps) {
  const units = useUnits();
  const meant = "meant" in asked ? asked.meant : undefined;
  return (
    <Alert color="straw" variant="outline" role="alert" title="Look again">
      <Text mb="xs">{words}</Text>
      <Group gap="xs">
        {meant != null && (
          <Button size="sm" onClick={() => onMeant(meant)}>
            I meant {meant}
          </Button>
        )}
        {asked.unlikely === "lower_reading" && (
          <>
            {asked.rolled_over_l != null && (
              <Button size="sm" variant="outline" onClick={() => onSend({ follows: { follows: "rolled_over" } })}>
                It began at 0 again: {units.show("volume", asked.rolled_over_l)} flowed
              </Button>
            )}
            <Button size="sm" variant="outline" onClick={onChanged}>
              The meter was changed
            </Button>
          </>
        )}
        {(asked.unlikely === "much_used" ||
          asked.unlikely === "other_than_heard" ||
          asked.unlikely === "same_reading") && (
          <Button size="sm" variant="outline" onClick={() => onSend({ sure: true })}>
            It reads so
          </Button>
        )}
        {asked.unlikely === "twice_that_night" && (
          <>
            <Button size="sm" onClick={() => onSend({ which: "first" })}>
              Before the clock was set back, {clock(asked.first, timeZone)}
            </Button>
            <Button size="sm" variant="outline" onClick={() => onSend({ which: "second" })}>
              After it
            </Button>
          </>
        )}
      </Group>
    </Alert>
  );
}
