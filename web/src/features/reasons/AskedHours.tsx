// For some hours: keep dry what was sprayed, water in what was put down. Each entry is over by itself.
import { Button, Group, SegmentedControl, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ApiFailure, type SiteView, type ZonePlan } from "../../api";
import { newKey } from "../../key";
import { whenAt } from "../../time";
import { useUnits } from "../../units";
import { FigureField, rounded, useFigures } from "../forms/figures";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import { constraintsQuery, useAsk, useLift } from "./queries";
import classes from "./Working.module.css";

type Kind = "keep_dry" | "water_in";

const USUAL: Record<Kind, number> = { keep_dry: 24, water_in: 24 };
/** A quarter of an inch: what labels usually ask to wash granules off the leaf (common practice, no source). */
const WATER_IN_MM = 6.35;

export function AskedHours({ site, view, zone }: { site: string; view: SiteView; zone: ZonePlan }) {
  const { record } = useRights(site);
  const units = useUnits();
  const asked = useQuery(constraintsQuery(site));
  const lift = useLift(site);
  const [asks, setAsks] = useState(0);
  const of = (asked.data ?? []).filter((c) => String(c.zone) === zone.zone);
  if (!record && of.length === 0) return null;
  const at = (instant: string) => whenAt(instant, view.today, view.site.time_zone);
  return (
    <section className={classes.dry}>
      <h3 className={classes.heading}>Just put something down?</h3>
      <Text size="sm" className="quiet">
        The label says how long it must stay dry, or by when it must be watered in; the plan keeps to it, and says where
        it cannot.
      </Text>
      <Refused error={lift.error ?? asked.error} />
      <ul className={classes.list}>
        {of.map((c) => (
          <li key={c.id}>
            {c.asks.kind === "keep_dry"
              ? `Dry from ${at(c.from)} until ${at(c.until)}`
              : `${units.show("depth", c.asks.net_mm)} to water it in, from ${at(c.from)}, by ${at(c.until)}`}
            {c.note ? `: ${c.note}` : ""}
            {c.who ? ` (${c.who})` : ""}{" "}
            {record && (
              <Button
                size="compact-sm"
                variant="subtle"
                loading={lift.isPending && lift.variables === c.id}
                onClick={() => lift.mutate(c.id)}
                aria-label={`Lift: ${c.asks.kind === "keep_dry" ? "dry" : "water in"} until ${at(c.until)}`}
              >
                Lift
              </Button>
            )}
          </li>
        ))}
      </ul>
      {record && <Ask key={asks} site={site} zone={zone} onKept={() => setAsks(asks + 1)} />}
    </section>
  );
}

/** `onKept`: begin with an empty form. */
function Ask({ site, zone, onKept }: { site: string; zone: ZonePlan; onKept: () => void }) {
  const ask = useAsk(site);
  const catalogue = useQuery(catalogueQuery);
  const [kind, setKind] = useState<Kind>("keep_dry");
  const [note, setNote] = useState("");
  const [begins, setBegins] = useState("");
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [key] = useState(newKey);
  const figures = useFigures({ hours: USUAL.keep_dry, net_mm: rounded("depth", WATER_IN_MM) });
  const units = useUnits();
  const send = () => {
    if (!catalogue.data) return;
    const hours = figures.problem("hours", { range: `${kind}_h`, required: true }, catalogue.data);
    const depth =
      kind === "water_in"
        ? figures.problem("net_mm", { range: "water_in_mm", quantity: "depth", required: true }, catalogue.data)
        : undefined;
    setErrors({ ...(hours ? { hours } : {}), ...(depth ? { net_mm: depth } : {}) });
    if (hours || depth) return;
    ask.mutate(
      {
        zone: Number(zone.zone),
        body: {
          asks: kind === "keep_dry" ? { kind } : { kind, net_mm: figures.si("net_mm", "depth") ?? 0 },
          hours: figures.si("hours") ?? 0,
          from: begins ? begins : null,
          note: note.trim() ? note.trim() : null,
          idempotency_key: key,
        },
      },
      {
        onSuccess: onKept,
        onError: (error) => {
          const field = error instanceof ApiFailure ? error.problem?.field : undefined;
          if (field) setErrors({ [field.replace("asks.", "")]: error.message });
        },
      },
    );
  };
  return (
    <>
      <SegmentedControl
        fullWidth
        my="xs"
        aria-label="What is asked"
        value={kind}
        onChange={(value) => setKind(value as Kind)}
        data={[
          { value: "keep_dry", label: "Keep dry" },
          { value: "water_in", label: "Water in" },
        ]}
      />
      <Group gap="xs" align="start" grow>
        <FigureField
          figures={figures}
          name="hours"
          label={kind === "keep_dry" ? "For how long, hours" : "Within, hours"}
          error={errors.hours}
        />
        {kind === "water_in" && (
          <FigureField figures={figures} name="net_mm" label="With how much" quantity="depth" error={errors.net_mm} />
        )}
      </Group>
      <TextInput
        label="Put down at (empty: now)"
        type="datetime-local"
        value={begins}
        error={errors.from}
        onChange={(e) => setBegins(e.currentTarget.value)}
      />
      <TextInput
        label="What it is"
        placeholder="grub granules"
        maxLength={200}
        value={note}
        error={errors.note}
        onChange={(e) => setNote(e.currentTarget.value)}
      />
      <Refused error={ask.error} />
      <Button mt="xs" loading={ask.isPending} onClick={send}>
        {kind === "keep_dry"
          ? "Keep it dry"
          : `Water it in with ${figures.text("net_mm", "depth")} ${units.label("depth")}`}
      </Button>
    </>
  );
}
