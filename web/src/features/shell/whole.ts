// A page that is made of several answers is drawn once they are there.
import { type QueriesOptions, useQueries } from "@tanstack/react-query";
import { useEffect, useState } from "react";

/** Longest wait for what is slow: then the page is drawn without it. */
const PATIENCE_MS = 2000;

/** Whether all that a page is made of has come, or has failed, or is late. Drawn answer by answer, what stands below moves away from under a thumb. */
export function useWhole<T extends unknown[]>(queries: readonly [...QueriesOptions<T>]): boolean {
  const pending = useQueries({ queries, combine: (answers) => answers.some((answer) => answer.isPending) });
  const [drawn, setDrawn] = useState(!pending);
  useEffect(() => {
    if (drawn) return;
    if (!pending) return setDrawn(true);
    const late = setTimeout(() => setDrawn(true), PATIENCE_MS);
    return () => clearTimeout(late);
  }, [pending, drawn]);
  // Once it is drawn it stays: what is asked later comes as it comes.
  return drawn || !pending;
}
