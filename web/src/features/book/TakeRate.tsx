// The rate that a meter has found by itself, taken as a quick test with one tap.
import { Button } from "@mantine/core";
import { useState } from "react";
import { newKey } from "../../key";
import { useUnits } from "../../units";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { useAddTest } from "../sprinklers/queries";
import type { Said } from "./words";

export function TakeRate({ site, offers }: { site: string; offers: NonNullable<Said["offers"]> }) {
  const units = useUnits();
  const { record } = useRights(site);
  const add = useAddTest(site, offers.zone);
  const [key] = useState(newKey);
  if (!record) return null;
  return (
    <>
      <Button
        size="sm"
        variant="outline"
        className="no-print"
        loading={add.isPending}
        onClick={() => add.mutate({ test: offers.test.test, idempotency_key: key })}
      >
        Plan {offers.name} with {units.show("rate", offers.test.rate_mm_h)}
      </Button>
      <Refused error={add.error} />
    </>
  );
}
