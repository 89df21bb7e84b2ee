// The one client of the HTTP API. Types come from its OpenAPI document (api.gen.ts).
import createClient from "openapi-fetch";
import type { components, paths } from "./api.gen";

export type Schemas = components["schemas"];
export type Zone = Schemas["Zone"];
export type ZoneView = Schemas["ZoneView"];
export type ZonePlan = Schemas["ZonePlan"];
export type Cell = Schemas["Cell"];
export type WeekPlan = Schemas["WeekPlan"];
export type PlanDay = Schemas["PlanDay"];
export type LedgerLine = Schemas["LedgerLine"];
export type Verdict = Schemas["Verdict"];
export type Warning = Schemas["Warning"];
export type SiteView = Schemas["SiteView"];
export type Preview = Schemas["Preview"];
export type Problem = Schemas["Problem"];
export type Catalogue = Schemas["Catalogue"];

export const client = createClient<paths>({ baseUrl: "/" });

/** An answer of the server that is no success, or no answer at all. */
export class ApiFailure extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly problem?: Problem,
  ) {
    super(message);
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or the failure with what the server said of it. */
export async function unwrap<T>(answer: Promise<Answer<T>>): Promise<T> {
  let settled: Answer<T>;
  try {
    settled = await answer;
  } catch {
    throw new ApiFailure("The server does not answer. Check the connection and try again.", 0);
  }
  const { data, error, response } = settled;
  if (!response.ok) {
    const problem = typeof error === "object" && error !== null ? (error as Problem) : undefined;
    throw new ApiFailure(problem?.detail ?? `The server answered ${response.status}.`, response.status, problem);
  }
  return data as T;
}
