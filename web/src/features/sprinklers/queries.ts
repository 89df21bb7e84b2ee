import { queryOptions, useMutation } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

export type SprinklerTest = Schemas["SprinklerTest"];
export type CanTest = Schemas["CanTest"];
/** A test with cans as the server takes it. */
export const withCans = (test: CanTest): SprinklerTest => ({ ...test, method: "cans" });
export type QuickTest = Schemas["QuickTest"];
export type TestResult = Schemas["TestResult"];
export type TestView = Schemas["TestView"];
export type Layout = Schemas["Layout"];
export type HeadFault = Schemas["HeadFaultView"];

export const testsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "sprinkler-tests"],
    queryFn: () =>
      unwrap(client.GET("/api/v1/sites/{site}/sprinkler-tests", { params: { path: { site: Number(site) } } })),
  });

/** A plan of a zone with heads and cans by a pattern; nothing is written. */
export const layoutQuery = (site: string, wanted: Schemas["Wanted"]) =>
  queryOptions({
    queryKey: ["can-layout", site, wanted],
    queryFn: () =>
      unwrap(
        client.POST("/api/v1/sites/{site}/can-layouts", { params: { path: { site: Number(site) } }, body: wanted }),
      ),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });

const at = (site: string, zone: number) => ({ path: { site: Number(site), zone } });

/** What a test says so far; nothing is written. */
export const useResult = (site: string, zone: number) =>
  useMutation({
    mutationFn: (body: SprinklerTest) =>
      unwrap(client.POST("/api/v1/sites/{site}/zones/{zone}/sprinkler-test-results", { params: at(site, zone), body })),
  });

export const useAddTest = (site: string, zone: number) =>
  useChange(site, (body: Schemas["DoneTest"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/zones/{zone}/sprinkler-tests", { params: at(site, zone), body })),
  );

export const useStanding = (site: string) =>
  useChange(site, ({ test, standing }: { test: number; standing: Schemas["Standing"] }) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}/sprinkler-tests/{test}/standing", {
        params: { path: { site: Number(site), test } },
        body: { standing },
      }),
    ),
  );

export const headFaultsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "head-faults"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/head-faults", { params: { path: { site: Number(site) } } })),
  });

export const wetChecksQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "wet-checks"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/wet-checks", { params: { path: { site: Number(site) } } })),
  });

export const useWetCheck = (site: string, onDone: () => void) =>
  useChange(
    site,
    (body: Schemas["DoneWetCheck"]) =>
      unwrap(client.POST("/api/v1/sites/{site}/wet-checks", { params: { path: { site: Number(site) } }, body })),
    onDone,
  );

export const useNoteFault = (site: string, zone: number) =>
  useChange(site, (body: Schemas["NotedFault"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/zones/{zone}/head-faults", { params: at(site, zone), body })),
  );

export const useRepair = (site: string) =>
  useChange(site, (fault: number) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}/head-faults/{fault}/repaired", {
        params: { path: { site: Number(site), fault } },
      }),
    ),
  );

/** Says that a head was not repaired after all. */
export const useReopen = (site: string) =>
  useChange(site, (fault: number) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/head-faults/{fault}/repaired", {
        params: { path: { site: Number(site), fault } },
      }),
    ),
  );
