import { queryOptions, useMutation } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

export type CanTest = Schemas["CanTest"];
export type TestResult = Schemas["TestResult"];
export type TestView = Schemas["TestView"];

export const testsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "can-tests"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/can-tests", { params: { path: { site: Number(site) } } })),
  });

const at = (site: string, zone: number) => ({ path: { site: Number(site), zone } });

/** What a test says so far; nothing is written. */
export const useReckon = (site: string, zone: number) =>
  useMutation({
    mutationFn: (body: CanTest) =>
      unwrap(client.POST("/api/v1/sites/{site}/zones/{zone}/can-test-results", { params: at(site, zone), body })),
  });

export const useAddTest = (site: string, zone: number) =>
  useChange(site, (body: Schemas["DoneTest"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/zones/{zone}/can-tests", { params: at(site, zone), body })),
  );

export const useStanding = (site: string) =>
  useChange(site, ({ test, standing }: { test: number; standing: Schemas["Standing"] }) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}/can-tests/{test}/standing", {
        params: { path: { site: Number(site), test } },
        body: { standing },
      }),
    ),
  );
