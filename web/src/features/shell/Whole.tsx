// A page that is made of several answers is drawn once they are there: drawn answer by answer, what stands below moves away from under a thumb.
import { useIsFetching, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";
import { Loading } from "./States";

/** Longest wait for what is slow: then the page is drawn without it. */
const PATIENCE_MS = 2000;

/** What is asked for and was never answered. */
const FIRST = { predicate: (query: { state: { status: string } }) => query.state.status === "pending" };

/** Once it is drawn it stays: what is asked later comes as it comes. */
export function Whole({ what, children }: { what: string; children: ReactNode }) {
  const queries = useQueryClient();
  const asked = useIsFetching(FIRST);
  const [drawn, setDrawn] = useState(false);
  useEffect(() => {
    const late = setTimeout(() => setDrawn(true), PATIENCE_MS);
    return () => clearTimeout(late);
  }, []);
  // The page inside has asked before this looks; what was seen while drawing was before that.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a change of what is asked is what this waits for
  useEffect(() => {
    if (queries.isFetching(FIRST) === 0) setDrawn(true);
  }, [asked, queries]);
  return (
    <>
      {!drawn && <Loading what={what} />}
      <div hidden={!drawn}>{children}</div>
    </>
  );
}
