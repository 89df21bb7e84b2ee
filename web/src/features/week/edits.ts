// What people change of the plan: asked, tried, kept, undone and done again.
import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { minutes } from "../../time";
import { useChange } from "../site/useChange";

export type Act = Schemas["EditAct"]["kind"];

type Change = { zone: number; body: Schemas["NewChange"] };

const of = (site: string, edit: number) => ({ params: { path: { site: Number(site), edit } } });

export const editsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "edits"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/edits", { params: { path: { site: Number(site) } } })),
  });

/** Changes a day of a zone. */
export const useChangeDay = (site: string) =>
  useChange(site, ({ zone, body }: Change) =>
    unwrap(
      client.POST("/api/v1/sites/{site}/zones/{zone}/edits", { params: { path: { site: Number(site), zone } }, body }),
    ),
  );

/** What would follow from it; nothing is kept. Where it is refused the site's edits are asked again: somebody may have changed the day. */
export function useTryChange(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ zone, body }: Change) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/zones/{zone}/edits/preview", {
          params: { path: { site: Number(site), zone } },
          body,
        }),
      ),
    onError: () => queries.invalidateQueries({ queryKey: ["site", site, "edits"] }),
  });
}

/** Undoes an edit of one's own. */
export const useUndo = (site: string) =>
  useChange(site, (edit: number) => unwrap(client.DELETE("/api/v1/sites/{site}/edits/{edit}", of(site, edit))));

/** Does again what one undid last. */
export const useRedo = (site: string) =>
  useChange(site, (edit: number) => unwrap(client.POST("/api/v1/sites/{site}/edits/{edit}/redo", of(site, edit))));

/** What an edit makes of its day: `Set to 24 min`. */
export function heldWords(edit: Schemas["EditView"]): string {
  if (edit.becomes.kind === "taken_out") return edit.act === "move" ? "Moved to another day" : "Skipped";
  if (edit.becomes.kind === "as_planned") return "As planned";
  const run = minutes(edit.becomes.passes * edit.becomes.pass_s);
  return edit.act === "lock" ? `Locked at ${run}` : `Set to ${run}`;
}
