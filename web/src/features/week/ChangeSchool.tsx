// The whole zone watered by another school from today on: what follows is read before it is kept.
import { Button, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { ZonePlan } from "../../api";
import { SchoolForm } from "../schools/SchoolForm";
import { type Kind, SCHOOLS } from "../schools/words";
import { Refused } from "../shell/States";
import { catalogueQuery, zonesQuery } from "../site/queries";

type Props = { site: string; zone: ZonePlan; today: string };

export function ChangeSchool(props: Props) {
  const [asked, setAsked] = useState(false);
  if (!asked) {
    return (
      <Button mt="xs" size="compact-sm" variant="subtle" onClick={() => setAsked(true)}>
        Water the whole zone by another school
      </Button>
    );
  }
  return <Ask {...props} onDone={() => setAsked(false)} />;
}

function Ask({ site, zone, today, onDone }: Props & { onDone: () => void }) {
  const zones = useQuery(zonesQuery(site));
  const catalogue = useQuery(catalogueQuery);
  const [kind, setKind] = useState<Kind>(zone.school.kind);
  const own = zones.data?.find((z) => String(z.id) === zone.zone);
  return (
    <section aria-label="School of the zone">
      <NativeSelect
        my="sm"
        label="By which school"
        value={kind}
        onChange={(e) => setKind(e.currentTarget.value as Kind)}
        data={Object.entries(SCHOOLS).map(([value, { name }]) => ({ value, label: name }))}
      />
      <Refused error={zones.error ?? catalogue.error} />
      {own && catalogue.data && (
        <SchoolForm
          key={kind}
          site={site}
          zone={own}
          kind={kind}
          catalogue={catalogue.data}
          today={today}
          onDone={onDone}
        />
      )}
    </section>
  );
}
