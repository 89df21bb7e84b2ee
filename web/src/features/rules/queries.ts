import { queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

export type Rules = Schemas["Rules"];
export type Rule = Schemas["LocalRule"];
export type AllowedDay = Schemas["AllowedDay"];

/** The next two weeks if these were the rules. */
export const previewQuery = (site: string, rules: Rules, version: number) =>
  queryOptions({
    queryKey: ["site", site, "rules-preview", version, rules],
    queryFn: () =>
      unwrap(
        client.POST("/api/v1/sites/{site}/rules/preview", { params: { path: { site: Number(site) } }, body: rules }),
      ),
    retry: false,
    placeholderData: (before: AllowedDay[] | undefined) => before,
  });

export const useSaveRules = (site: string, onSaved: () => void) =>
  useChange(
    site,
    ({ version, rules }: { version: number; rules: Rules }) =>
      unwrap(
        client.PUT("/api/v1/sites/{site}/rules", {
          params: { path: { site: Number(site) }, header: { "If-Match": `"${version}"` } },
          body: rules,
        }),
      ),
    onSaved,
  );
