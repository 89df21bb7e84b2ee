import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { meQuery } from "../session/queries";

export const welcomeQuery = queryOptions({
  queryKey: ["welcome"],
  queryFn: () => unwrap(client.GET("/api/v1/welcome")),
});

export const placesQuery = (at?: { latitude: number; longitude: number; time_zone: string }) =>
  queryOptions({
    queryKey: ["places", at ?? null],
    queryFn: () => unwrap(client.GET("/api/v1/places", { params: { query: at ?? {} } })),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
  });

export const grassKeyQuery = (seen: Schemas["Seen"]) =>
  queryOptions({
    queryKey: ["grass-key", seen],
    queryFn: () => unwrap(client.POST("/api/v1/grass-key", { body: seen })),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
  });

/** What the plan would do with a zone of answers; asked again with each. */
export const draftQuery = (site: string, draft: Schemas["ZoneDraft"]) =>
  queryOptions({
    queryKey: ["site", site, "draft", draft],
    queryFn: () =>
      unwrap(
        client.POST("/api/v1/sites/{site}/zone-drafts", { params: { path: { site: Number(site) } }, body: draft }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** Makes an account and signs in with it. */
export function useNewAccount() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (account: Schemas["NewAccount"]) => {
      await unwrap(client.POST("/api/v1/accounts", { body: account }));
      const { email, password } = account;
      return unwrap(client.POST("/api/v1/session", { body: { email, password } }));
    },
    onSuccess: (me) => {
      queries.clear();
      queries.setQueryData(meQuery.queryKey, me);
    },
  });
}

export function useBeginSite() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (draft: Schemas["SiteDraft"]) => unwrap(client.POST("/api/v1/site-drafts", { body: draft })),
    onSuccess: () => queries.invalidateQueries({ queryKey: meQuery.queryKey }),
  });
}
