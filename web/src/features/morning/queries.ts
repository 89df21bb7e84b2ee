import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { client, unwrap } from "../../api";

export const planQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "plan"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/plan", { params: { path: { site: Number(site) } } })),
  });

/** Plans again from what is known now. */
export function useReplan(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/v1/sites/{site}/plans", { params: { path: { site: Number(site) } } })),
    onSuccess: (plan) => queries.setQueryData(planQuery(site).queryKey, plan),
  });
}
