// A choice by large buttons, for wet hands: one of them, or as many as hold.
import { Button } from "@mantine/core";
import classes from "./Choice.module.css";

type Option<T extends string> = { value: T; label: string };
type Props<T extends string> = {
  label: string;
  options: Option<T>[];
  chosen: T[];
  onChoose: (value: T) => void;
};

export function Choice<T extends string>({ label, options, chosen, onChoose }: Props<T>) {
  return (
    <fieldset className={classes.choice}>
      <legend>{label}</legend>
      <div>
        {options.map(({ value, label }) => (
          <Button
            key={value}
            size="md"
            px="sm"
            variant={chosen.includes(value) ? "filled" : "outline"}
            aria-pressed={chosen.includes(value)}
            onClick={() => onChoose(value)}
          >
            {label}
          </Button>
        ))}
      </div>
    </fieldset>
  );
}
