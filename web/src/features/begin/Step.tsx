// One question on one screen: what is asked, how to find out, the answers, and a way back.
import { Button, Text } from "@mantine/core";
import { type ReactNode, useEffect, useRef } from "react";
import classes from "./Begin.module.css";

type StepProps = {
  number: number;
  of: number;
  title: string;
  /** One sentence on how to tell. */
  hint?: ReactNode;
  onBack?: (() => void) | undefined;
  /** What goes on; absent where a choice does. */
  next?: { label?: string; onClick: () => void; loading?: boolean } | undefined;
  /** Leaves the question open. */
  onUnknown?: (() => void) | undefined;
  children: ReactNode;
};

export function Step({ number, of, title, hint, onBack, next, onUnknown, children }: StepProps) {
  const heading = useRef<HTMLHeadingElement>(null);
  // A new question is read out, and seen from its top.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the number is what changes
  useEffect(() => {
    heading.current?.focus({ preventScroll: true });
    window.scrollTo(0, 0);
  }, [number]);
  return (
    <section className={classes.step}>
      <div className={classes.top}>
        {onBack ? (
          <Button variant="subtle" size="compact-md" onClick={onBack}>
            Back
          </Button>
        ) : (
          <span />
        )}
        <span className="quiet">
          {number} of {of}
        </span>
      </div>
      <h1 ref={heading} tabIndex={-1} className={classes.question}>
        {title}
      </h1>
      {hint && <Text className="quiet">{hint}</Text>}
      <form
        className={classes.answers}
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          next?.onClick();
        }}
      >
        {children}
        {(next || onUnknown) && (
          <div className={classes.onward}>
            {next && (
              <Button type="submit" size="md" loading={next.loading ?? false}>
                {next.label ?? "Next"}
              </Button>
            )}
            {onUnknown && (
              <Button type="button" size="md" variant="outline" onClick={onUnknown}>
                I don’t know
              </Button>
            )}
          </div>
        )}
      </form>
    </section>
  );
}

export type Choice<T> = { value: T; label: string; hint?: string | undefined; drawing?: ReactNode };

/** Answers to be tapped; a tap goes on. */
export function Choices<T extends string>(props: {
  label: string;
  choices: Choice<T>[];
  chosen: T | null | undefined;
  onChoose: (value: T) => void;
}) {
  return (
    <ul className={classes.choices} aria-label={props.label}>
      {props.choices.map((choice) => (
        <li key={choice.value}>
          <button
            type="button"
            className={classes.choice}
            aria-pressed={choice.value === props.chosen}
            onClick={() => props.onChoose(choice.value)}
          >
            {choice.drawing}
            <span>
              <strong>{choice.label}</strong>
              {choice.hint && <span className="quiet">{choice.hint}</span>}
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}
