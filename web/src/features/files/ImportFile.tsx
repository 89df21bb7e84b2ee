// A file of records: sent with its progress, broken off at will, taken as a whole or not at all.
import { Alert, Button, Checkbox, Group, Progress, Stack, Text } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useId, useRef, useState } from "react";
import { ApiFailure } from "../../api";
import { upload } from "../../upload";
import classes from "./FilePick.module.css";

/** Lines at fault that are shown. */
const MOST_LINES = 20;

/** Largest file that the server takes. */
const LARGEST_MB = 100;

type Props<T> = {
  site: string;
  /** What it is called: `Import minutes of Commons`. */
  label: string;
  hint: string;
  accept: string;
  url: string;
  /** Whether figures that are seldom so can be insisted on. */
  insists?: boolean;
  /** What was done, in words. */
  done: (answer: T) => string;
};

type State<T> =
  | { is: "idle" }
  | { is: "sending"; name: string; share: number }
  | { is: "done"; answer: T }
  | { is: "broken_off" }
  | { is: "failed"; error: ApiFailure };

export function ImportFile<T>({ site, label, hint, accept, url, insists, done }: Props<T>) {
  const id = useId();
  const queries = useQueryClient();
  const [state, setState] = useState<State<T>>({ is: "idle" });
  const [sure, setSure] = useState(false);
  const running = useRef<AbortController>(null);
  const send = async (file: File) => {
    if (file.size > LARGEST_MB * 1024 * 1024) {
      const message = `${file.name} is larger than ${LARGEST_MB} MB: send it in parts.`;
      return setState({ is: "failed", error: new ApiFailure(message, 413) });
    }
    const control = new AbortController();
    running.current = control;
    const progress = (share: number) => setState({ is: "sending", name: file.name, share });
    progress(0);
    try {
      const answer = await upload<T>(sure ? `${url}?sure=true` : url, file, progress, control.signal);
      setState({ is: "done", answer });
      await queries.invalidateQueries({ queryKey: ["site", site] });
    } catch (error) {
      setState(error instanceof ApiFailure ? { is: "failed", error } : { is: "broken_off" });
    }
  };
  // Once all of it is sent the server writes it, in one go.
  const writing = state.is === "sending" && state.share >= 1;
  return (
    <Stack gap="xs" className={`${classes.pick} ${classes.apart}`}>
      <label htmlFor={id}>{label}</label>
      <span className={classes.hint}>{hint}</span>
      {insists && (sure || state.is === "failed") && (
        <Checkbox
          label="I have looked at what was asked about: it is so"
          checked={sure}
          onChange={(e) => setSure(e.currentTarget.checked)}
        />
      )}
      <input
        id={id}
        type="file"
        accept={accept}
        disabled={state.is === "sending"}
        onChange={(event) => {
          const input = event.currentTarget;
          const file = input.files?.[0];
          if (!file) return;
          // Picking the same file again works too, as soon as the answer stands there.
          input.value = "";
          void send(file);
        }}
      />
      {state.is === "sending" && (
        <>
          <Progress value={100 * state.share} aria-label={`Sending ${state.name}`} />
          <Group>
            <Text role="status">
              {writing ? "Writing it down …" : `${Math.round(100 * state.share)} % of ${state.name} sent`}
            </Text>
            <Button size="xs" variant="outline" disabled={writing} onClick={() => running.current?.abort()}>
              Cancel
            </Button>
          </Group>
        </>
      )}
      {state.is === "done" && <Text role="status">{done(state.answer)}</Text>}
      {state.is === "broken_off" && <Text role="status">Cancelled: nothing was written.</Text>}
      {state.is === "failed" && <Faults error={state.error} />}
    </Stack>
  );
}

function Faults({ error }: { error: ApiFailure }) {
  const lines = error.problem?.lines ?? [];
  return (
    <Alert color="clay" variant="outline" role="alert" title={error.message}>
      {lines.length > 0 && (
        <ul>
          {lines.slice(0, MOST_LINES).map((e) => (
            <li key={`${e.line} ${e.column} ${e.message}`}>
              Line {e.line}
              {e.column ? `, column ${e.column}` : ""}: {e.message}
            </li>
          ))}
          {lines.length > MOST_LINES && <li>and {lines.length - MOST_LINES} more</li>}
        </ul>
      )}
    </Alert>
  );
}
