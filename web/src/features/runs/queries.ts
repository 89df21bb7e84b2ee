import { queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { addDays } from "../../time";
import { useChange } from "../site/useChange";

const path = (site: string) => ({ path: { site: Number(site) } });

export const runsQuery = (site: string, from: string, to: string) =>
  queryOptions({
    queryKey: ["site", site, "runs", from, to],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/runs", { params: { ...path(site), query: { from, to } } })),
  });

/** Days of which any run may still be answered. */
export const DAYS_OPEN = 30;

/** The runs that may still be answered. */
export const recentRunsQuery = (site: string, today: string) => runsQuery(site, addDays(today, -DAYS_OPEN), today);

export const useAnswer = (site: string) =>
  useChange(site, ({ run, answer }: { run: number; answer: Schemas["Answer"] }) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}/runs/{run}/answer", {
        params: { path: { site: Number(site), run } },
        body: answer,
      }),
    ),
  );

/** Says of several runs that they ran as recorded, at once. */
export const useConfirm = (site: string) =>
  useChange(site, (runs: number[]) =>
    unwrap(client.POST("/api/v1/sites/{site}/runs/confirmation", { params: path(site), body: { runs } })),
  );

/** Takes back what was said of a run. */
export const useTakeBack = (site: string) =>
  useChange(site, (run: number) =>
    unwrap(client.DELETE("/api/v1/sites/{site}/runs/{run}/answer", { params: { path: { site: Number(site), run } } })),
  );

export const useAddRun = (site: string) =>
  useChange(site, (body: Schemas["NewRun"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/runs", { params: path(site), body })),
  );
