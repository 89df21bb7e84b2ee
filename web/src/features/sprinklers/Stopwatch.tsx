// Times a run; the page's own clock, so that it goes on while the phone sleeps.
import { Button, Stack } from "@mantine/core";
import { useEffect, useState } from "react";
import { minutesSeconds } from "../../time";
import classes from "./Sprinklers.module.css";

type Props = {
  /** What starts it. */
  start: string;
  /** What takes a time. */
  take: string;
  onTime: (minutes: number) => void;
  /** Whether it runs on after a time was taken. */
  goesOn?: boolean;
};

export function Stopwatch({ start, take, onTime, goesOn = false }: Props) {
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
        {start}
      </Button>
    );
  }
  const seconds = (at: number) => Math.max(0, Math.round((at - begun) / 1000));
  return (
    <Stack gap="xs">
      <div className={classes.timer} role="timer">
        {minutesSeconds(seconds(now))}
      </div>
      <Button
        variant="outline"
        onClick={() => {
          onTime(Math.max(0.1, Math.round(seconds(Date.now()) / 6) / 10));
          if (!goesOn) setBegun(undefined);
        }}
      >
        {take}
      </Button>
      {goesOn && (
        <Button variant="subtle" size="xs" onClick={() => setBegun(undefined)}>
          Stop the watch
        </Button>
      )}
    </Stack>
  );
}
