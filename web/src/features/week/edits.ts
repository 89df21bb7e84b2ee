import { queryOptions, useMutation } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

type Change = { zone: number; body: Schemas["NewChange"] };

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

/** What would follow from it; nothing is kept. */
export const useTryChange = (site: string) =>
  useMutation({
    mutationFn: ({ zone, body }: Change) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/zones/{zone}/edits/preview", {
          params: { path: { site: Number(site), zone } },
          body,
        }),
      ),
  });

/** Undoes an edit of one's own. */
export const useUndo = (site: string) =>
  useChange(site, (edit: number) =>
    unwrap(client.DELETE("/api/v1/sites/{site}/edits/{edit}", { params: { path: { site: Number(site), edit } } })),
  );
