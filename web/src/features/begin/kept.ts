// Answers that are not sent yet, kept on this device: a reload in the middle loses nothing.
import { useState } from "react";
import type { Schemas } from "../../api";

/** What is answered of a site so far. */
export type SiteAnswers = Partial<Schemas["SiteDraft"]>;

/** What is kept under a name; `undefined` where nothing is, or nothing that can be read. */
function read<T extends object>(name: string): T | undefined {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(name) ?? "null");
    return typeof kept === "object" && kept !== null ? (kept as T) : undefined;
  } catch {
    return undefined;
  }
}

/** State that outlives the page: `keep` replaces it, `forget` begins anew. */
export function useKept<T extends object>(name: string, initial: T) {
  const [state, setState] = useState<T>(() => ({ ...initial, ...read<T>(name) }));
  const keep = (next: T) => {
    localStorage.setItem(name, JSON.stringify(next));
    setState(next);
  };
  const forget = () => {
    localStorage.removeItem(name);
    setState(initial);
  };
  return { state, keep, forget };
}
