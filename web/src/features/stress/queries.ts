import { keepPreviousData, queryOptions, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ApiFailure, client, type Schemas, unwrap } from "../../api";
import { askedAgain } from "../../queryClient";
import { useChange } from "../site/useChange";

export type StressView = Schemas["StressView"];
export type ZoneStress = Schemas["ZoneStress"];
export type Scarcity = Schemas["Scarcity"];
export type DormancyDay = Schemas["DormancyDay"];
export type Regime = Schemas["Regime"];

export const stressQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "stress"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/stress", { params: { path: { site: Number(site) } } })),
  });

/** What a volume for the coming week comes to; without one what a cap leaves, or all that is needed. */
export const scarcityQuery = (site: string, litres: number | undefined) =>
  queryOptions({
    queryKey: ["site", site, "scarcity", litres],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/sites/{site}/scarcity", {
          params: { path: { site: Number(site) }, query: litres === undefined ? {} : { litres } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

export type Decision = Schemas["Decision"];
type Line = Schemas["DecisionLine"];

/** What each choice comes to over past summers: the server tells how far it is, line by line, then the figures. */
export function useDecision(site: string) {
  const [progress, setProgress] = useState<{ done: number; of: number }>();
  const found = useQuery({
    queryKey: ["site", site, "decision"],
    queryFn: async ({ signal }) => {
      setProgress(undefined);
      const { data, error, response } = await client
        .GET("/api/v1/sites/{site}/decision", {
          params: { path: { site: Number(site) } },
          parseAs: "stream",
          signal,
        })
        .catch(() => {
          throw new ApiFailure("The server does not answer. Check the connection and try again.", 0);
        });
      if (error || !data) throw new ApiFailure(`The server answered ${response.status}.`, response.status);
      for await (const line of lines(data as ReadableStream<Uint8Array>)) {
        const said = JSON.parse(line) as Line;
        // Until the record is read nobody knows of how many.
        if (said.line === "progress" && said.of > 0) setProgress(said);
        if (said.line === "found") return said.decision;
        if (said.line === "failed") break;
        if (said.line === "asked_anew" || said.line === "busy") {
          throw new ApiFailure("The server has much to compute at the moment. Try again soon.", 503);
        }
      }
      throw new ApiFailure("The past summers could not be computed to their end.", response.status);
    },
    staleTime: 60_000,
    retry: askedAgain,
  });
  return { decision: found.data, progress, error: found.error, again: () => void found.refetch() };
}

/** The lines of a body, as they come. */
async function* lines(body: ReadableStream<Uint8Array>): AsyncGenerator<string> {
  const reader = body.pipeThrough(new TextDecoderStream() as TransformStream<Uint8Array, string>).getReader();
  let rest = "";
  for (;;) {
    const { done, value } = await reader.read();
    const parts = (rest + (value ?? "")).split("\n");
    rest = parts.pop() ?? "";
    yield* parts.filter((line) => line !== "");
    if (done) return;
  }
}

export type RecoveryView = Schemas["RecoveryView"];
export type ZoneRecovery = Schemas["ZoneRecovery"];
export type PatchView = Schemas["PatchView"];

export const recoveryQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "recovery"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/recovery", { params: { path: { site: Number(site) } } })),
  });

type Kept = Schemas["LookKept"];

/** A patch and the first look at it, or one more look, with a photo where there is one: the look is kept once however often it is sent. */
export const useLookAtPatch = (site: string, onDone: () => void) =>
  useChange(
    site,
    async ({ photo, ...look }: PatchLook) => {
      const kept = await unwrap<Kept>(
        "patch" in look
          ? client.POST("/api/v1/sites/{site}/patches/{patch}/looks", {
              params: { path: { site: Number(site), patch: look.patch } },
              body: look.body,
            })
          : client.POST("/api/v1/sites/{site}/zones/{zone}/patches", {
              params: { path: { site: Number(site), zone: look.zone } },
              body: look.body,
            }),
      );
      if (photo) {
        await unwrap(
          client.PUT("/api/v1/sites/{site}/patch-looks/{look}/photo", {
            params: { path: { site: Number(site), look: kept.look } },
            body: photo as unknown as number[],
            bodySerializer: (body: unknown) => body,
            headers: { "Content-Type": "image/jpeg" },
          }),
        );
      }
      return kept;
    },
    onDone,
  );

export type PatchLook = { photo: Blob | undefined } & (
  | { patch: number; body: Schemas["NotedLook"] }
  | { zone: number; body: Schemas["NotedPatch"] }
);

export const patchPhoto = (site: string, look: number) => `/api/v1/sites/${site}/patch-looks/${look}/photo`;

/** Whether a patch is repaired, or was noted by mistake. */
export const useSayOfPatch = (site: string, onDone: () => void) =>
  useChange(
    site,
    ({ patch, says }: { patch: number; says: "repaired" | "open" | "mistaken" }) => {
      const params = { params: { path: { site: Number(site), patch } } };
      if (says === "repaired") return unwrap(client.PUT("/api/v1/sites/{site}/patches/{patch}/repaired", params));
      if (says === "open") return unwrap(client.DELETE("/api/v1/sites/{site}/patches/{patch}/repaired", params));
      return unwrap(client.DELETE("/api/v1/sites/{site}/patches/{patch}", params));
    },
    onDone,
  );

export const useTurnRegime = (site: string, onDone: () => void) =>
  useChange(
    site,
    ({ zone, ...body }: { zone: number } & Schemas["RegimeTurn"]) =>
      unwrap(
        client.PUT("/api/v1/sites/{site}/zones/{zone}/regime", {
          params: { path: { site: Number(site), zone } },
          body,
        }),
      ),
    onDone,
  );
