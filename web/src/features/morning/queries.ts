import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";

const key = (site: string) => ["site", site, "plan"];

/** The plan that the reader has; it is sent again only when there is a newer one. */
export const planQuery = (site: string) =>
  queryOptions({
    queryKey: key(site),
    queryFn: async ({ client: queries }) => {
      const known = queries.getQueryData<Schemas["CurrentPlan"]>(key(site));
      const header = known?.current ? { "If-None-Match": `W/"${known.current.id}"` } : {};
      const answer = client.GET("/api/v1/sites/{site}/plan", { params: { path: { site: Number(site) }, header } });
      const { response } = await answer.catch(() => ({ response: undefined }));
      return known && response?.status === 304 ? known : unwrap(answer);
    },
    refetchInterval: (query) => (query.state.data?.being_made ? 2000 : false),
  });

/** Plans again from what is known now. */
export function useReplan(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/v1/sites/{site}/plans", { params: { path: { site: Number(site) } } })),
    onSuccess: (plan) => queries.setQueryData(planQuery(site).queryKey, plan),
  });
}
