// Drops of water on dry soil, one place after another, by the page's own clock.
import { Button, Group, Text, TextInput } from "@mantine/core";
import { useEffect, useState } from "react";
import { parse } from "../../numbers";
import classes from "../sprinklers/Sprinklers.module.css";
import type { FormProps } from "./form";

const DAY_S = 86_400;

export function DropTest({ noted, note, problem }: FormProps) {
  const seconds = (noted.seconds as number[] | undefined) ?? [];
  const begun = noted.begun as number | undefined;
  const [now, setNow] = useState(Date.now());
  const [typed, setTyped] = useState("");
  useEffect(() => {
    if (begun === undefined) return;
    const timer = setInterval(() => setNow(Date.now()), 200);
    return () => clearInterval(timer);
  }, [begun]);
  const add = (s: number) =>
    note({ seconds: [...seconds, Math.min(DAY_S, Math.round(s * 10) / 10)], begun: undefined });
  const value = parse(typed);
  const bad = typed !== "" && (value === undefined || value < 0 || value > DAY_S);
  return (
    <>
      <Text size="sm">
        Break a core open and let it dry in the air for a day, or take soil from the dry spot. Set a drop of water on
        it, at several places and depths, and time how long each stands. Under 5 s it takes water; beyond 60 s it repels
        it.
      </Text>
      {begun === undefined ? (
        <Button size="md" onClick={() => note({ begun: Date.now() })}>
          {seconds.length === 0 ? "A drop is on" : "The next drop is on"}
        </Button>
      ) : (
        <>
          <div className={classes.timer} role="timer">
            {Math.max(0, (now - begun) / 1000).toFixed(0)} s
          </div>
          <Button size="md" variant="outline" onClick={() => add((Date.now() - begun) / 1000)}>
            It is in
          </Button>
        </>
      )}
      {seconds.length > 0 && (
        <Text>
          {seconds.length === 1 ? "One drop" : `${seconds.length} drops`}: {seconds.map((s) => `${s} s`).join(", ")}.
        </Text>
      )}
      <Group align="flex-end">
        <TextInput
          label="Type a drop’s time, s"
          inputMode="decimal"
          value={typed}
          error={bad ? "Between 0 and 86 400 s." : problem("seconds")}
          onChange={(e) => setTyped(e.currentTarget.value)}
        />
        <Button
          variant="outline"
          disabled={value === undefined || bad}
          onClick={() => {
            add(value ?? 0);
            setTyped("");
          }}
        >
          Add it
        </Button>
        {seconds.length > 0 && (
          <Button variant="subtle" onClick={() => note({ seconds: seconds.slice(0, -1) })}>
            Take the last away
          </Button>
        )}
      </Group>
    </>
  );
}
