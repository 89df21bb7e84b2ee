// What is published of a site, and publishing it.
import { queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

export type Publishing = Schemas["Publishing"];

const of = (site: string) => ({ params: { path: { site: Number(site) } } });

export const publishingQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "publishing"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/publishing", of(site))),
  });

/** Puts the newest plan in force. */
export const usePublish = (site: string) =>
  useChange(site, (body: Schemas["ToPublish"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/publications", { ...of(site), body })),
  );

/** Withdraws what is published. */
export const useWithdraw = (site: string) =>
  useChange(site, (publication: number) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/publications/{publication}", {
        params: { path: { site: Number(site), publication } },
      }),
    ),
  );

/** Has the plan published each morning, or no longer. */
export const useMornings = (site: string) =>
  useChange(site, (each_morning: boolean) =>
    unwrap(client.PUT("/api/v1/sites/{site}/publishing", { ...of(site), body: { each_morning } })),
  );

/** Says that the controller was replaced: its log counts from 1 again. */
export const useReplaced = (site: string) =>
  useChange(site, () => unwrap(client.POST("/api/v1/sites/{site}/controller/replacements", of(site))));

/** Forgets the lines of its log that were left out. */
export const useClearLeftOut = (site: string) =>
  useChange(site, () => unwrap(client.DELETE("/api/v1/sites/{site}/controller/left-out", of(site))));

/** Connects the site's controller, or disconnects it. */
export const useConnect = (site: string) =>
  useChange(site, (connected: boolean) =>
    unwrap(client.PUT("/api/v1/sites/{site}/controller", { ...of(site), body: { connected } })),
  );
