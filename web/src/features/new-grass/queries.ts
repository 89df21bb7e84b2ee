import type { Schemas } from "../../api";
import { newKey } from "../../key";
import { useChange } from "../site/useChange";
import { noteSeen } from "../soil/queries";

/** Notes what was seen of new grass, now. */
export const useNoteGrown = (site: string, zone: number) =>
  useChange(site, (grown: Schemas["Grown"]) =>
    noteSeen(site, zone, { seen: { seen: "grown", grown }, idempotency_key: newKey() }),
  );
