// What is wrong with a form's fields, as it was said when the form was sent: gone from a field as soon as that is corrected.
import { useState } from "react";
import type { Figures } from "./figures";

type Errors = Record<string, string | undefined>;

export function useErrors(figures: Figures) {
  const [judged, setJudged] = useState<{ errors: Errors; stood: Record<string, string> }>({ errors: {}, stood: {} });
  const stands = ([name]: [string, string | undefined]) => judged.stood[name] === figures.raw(name);
  const errors: Errors = Object.fromEntries(Object.entries(judged.errors).filter(stands));
  const setErrors = (errors: Errors) =>
    setJudged({ errors, stood: Object.fromEntries(Object.keys(errors).map((name) => [name, figures.raw(name)])) });
  return [errors, setErrors] as const;
}
