import { queryOptions, useMutation } from "@tanstack/react-query";
import { client, unwrap, type ZoneView } from "../../api";
import { askedAgain } from "../../queryClient";
import { useChange } from "../site/useChange";
import type { School } from "./words";

/** The site's last year under each school: computed when it is asked for. */
export const comparisonQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "school-comparison"],
    queryFn: ({ signal }) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/school-comparisons", { params: { path: { site: Number(site) } }, signal }),
      ),
    staleTime: 300_000,
    retry: askedAgain,
  });

/** What would follow from it this week; nothing is kept. */
export const useTrySchool = (site: string) =>
  useMutation({
    mutationFn: ({ zone, school }: { zone: number; school: School }) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/zones/{zone}/school-preview", {
          params: { path: { site: Number(site), zone } },
          body: { school },
        }),
      ),
  });

export const useSchool = (site: string) =>
  useChange(site, ({ zone, school, today }: { zone: ZoneView; school: School; today: string }) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}/zones/{zone}", {
        params: {
          path: { site: Number(site), zone: zone.id },
          header: { "If-Match": `"${zone.version}"` },
          query: { holds: `school:${today}` },
        },
        body: { ...zone.zone, school },
      }),
    ),
  );
