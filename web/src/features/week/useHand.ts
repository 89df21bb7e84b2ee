// The reader's own changes of the week, undone and done again, and what was said of it.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api";
import { shortDay } from "../../time";
import { useRights } from "../session/rights";
import { editsQuery, heldWords, useRedo, useUndo } from "./edits";

/** `Skipped, Front, Sat 20`. */
const words = (edit: Schemas["EditView"]) => `${heldWords(edit)}, ${edit.zone_name}, ${shortDay(edit.date)}`;

export function useHand(site: string) {
  const { manage } = useRights(site);
  const edits = useQuery(editsQuery(site));
  const undoing = useUndo(site);
  const redoing = useRedo(site);
  const [said, say] = useState("");
  const last = edits.data?.undo ?? undefined;
  const next = edits.data?.redo ?? undefined;
  const step = (edit: Schemas["EditView"] | undefined, by: typeof undoing, done: string, none: string) => {
    if (!manage || by.isPending) return;
    if (!edit) return say(none);
    by.mutate(edit.id, {
      onSuccess: () => say(`${done}: ${words(edit)}.`),
      onError: (error) => say(`${error.message}.`),
    });
  };
  return {
    manage,
    /** What was said last. */
    said,
    say,
    /** What an undo would take back, in words. */
    undoable: manage && last ? words(last) : undefined,
    redoable: manage && next ? words(next) : undefined,
    undo: () => step(last, undoing, "Undone", "There is nothing of yours to undo."),
    redo: () => step(next, redoing, "Done again", "There is nothing to do again."),
  };
}
