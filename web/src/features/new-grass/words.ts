// What is said of new grass.
import type { Schemas } from "../../api";

/** What is to be seen next of new grass at a stage. */
export const NEXT_SEEN: Record<Schemas["Stage"], { grown: Schemas["Grown"]; label: string } | undefined> = {
  not_up: { grown: "first_blades", label: "First blades are up" },
  up: { grown: "filling_in", label: "It fills in: half the ground is green" },
  filling_in: { grown: "mown_once", label: "Mown for the first time" },
  established: undefined,
};
