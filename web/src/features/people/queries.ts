import { infiniteQueryOptions, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import type { Role } from "../session/rights";
import { useChange } from "../site/useChange";

const path = (site: string) => ({ path: { site: Number(site) } });

export const peopleQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "people"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/people", { params: path(site) })),
  });

export const historyQuery = (site: string) =>
  infiniteQueryOptions({
    queryKey: ["site", site, "history"],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/v1/sites/{site}/history", {
          params: { ...path(site), query: pageParam === undefined ? {} : { before: pageParam } },
        }),
      ),
    getNextPageParam: (last) => (last.more ? last.entries.at(-1)?.id : undefined),
  });

export const useInvite = (site: string) =>
  useChange(site, (body: Schemas["NewInvitation"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/invitations", { params: path(site), body })),
  );

export const useRevoke = (site: string) =>
  useChange(site, (invitation: number) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/invitations/{invitation}", {
        params: { path: { site: Number(site), invitation } },
      }),
    ),
  );

export const useSetRole = (site: string) =>
  useChange(site, ({ account, role, tokens }: { account: number; role: Role; tokens?: Schemas["Tokens"] }) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}/people/{account}", {
        params: { path: { site: Number(site), account } },
        body: { role, ...(tokens ? { tokens } : {}) },
      }),
    ),
  );

export const useRemove = (site: string) =>
  useChange(site, ({ account, tokens }: { account: number; tokens: Schemas["Tokens"] }) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/people/{account}", {
        params: { path: { site: Number(site), account }, query: { tokens } },
      }),
    ),
  );

export function useLeave(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/sites/{site}/membership", { params: path(site) })),
    onSuccess: () => queries.clear(),
  });
}

export const offerQuery = (token: string) =>
  queryOptions({
    queryKey: ["invitation", token],
    queryFn: () => unwrap(client.GET("/api/v1/invitation", { params: { header: { "Invitation-Token": token } } })),
    retry: false,
  });
