// One local rule: what it says, to whom, when, and who is exempt.
import { Button, Checkbox, Group, NativeSelect, Stack, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api";
import { parse } from "../../numbers";
import { useUnits } from "../../units";
import { catalogueQuery } from "../site/queries";
import siteClasses from "../site/SitePage.module.css";
import type { Rule } from "./queries";
import classes from "./Rules.module.css";
import { DAYS, ruleSentence, WHO } from "./words";

type Says = Rule["says"];
type OnlyOn = Extract<Says, { kind: "only_on" }>;
type AtMost = Extract<Says, { kind: "at_most" }>;

type Props = {
  rule: Rule;
  number: number;
  zones: { id: string; name: string }[];
  stages: string[];
  today: string;
  error: (field: string) => string | undefined;
  onChange: (rule: Rule) => void;
  onRemove: () => void;
};

/** What a rule about dates is called until somebody names it. */
const DATES_NAMES = { any: "All dates", odd: "Odd dates", even: "Even dates" };

export function RuleFields({ rule, number, zones, stages, today, error, onChange, onRemove }: Props) {
  const { says } = rule;
  const units = useUnits();
  const at = `rules.list[${number - 1}].`;
  const name = (id: string) => zones.find((z) => z.id === id)?.name ?? id;
  const change = (part: Partial<Rule>) => onChange({ ...rule, ...part });
  const say = (part: Partial<OnlyOn>) => change({ says: { ...says, ...part } as Says });
  const day = (text: string) => (text === "" ? null : text);
  const hoursOf = says.kind === "at_most" ? undefined : says.hours;
  // Hours have both ends: the other is the day's own until it is typed; an emptied one means all day.
  const setHours = (part: { from: string } | { to: string }) => {
    const emptied = Object.values(part).includes("");
    const known = { from: hoursOf?.from ?? "00:00", to: hoursOf?.to ?? "23:59" };
    say({ hours: emptied ? null : { ...known, ...part } });
  };
  return (
    <fieldset className={siteClasses.group}>
      <legend>Rule {number}</legend>
      <p className={classes.sentence}>{ruleSentence(rule, name, units)}</p>
      <Stack gap="sm">
        <div className={siteClasses.fields}>
          <TextInput
            label={`Name of rule ${number}`}
            value={rule.name}
            error={error(`${at}name`)}
            onChange={(e) => change({ name: e.currentTarget.value })}
          />
          <NativeSelect
            label="It says"
            value={says.kind}
            data={[
              { value: "only_on", label: "Watering only on some days or hours" },
              { value: "never", label: "No watering" },
              { value: "at_most", label: "At most so much water" },
            ]}
            onChange={(e) => change({ says: saysOf(e.currentTarget.value as Says["kind"], hoursOf) })}
          />
          {says.kind === "at_most" && (
            <Volume says={says} error={error(`${at}says.volume_l`)} onChange={(next) => change({ says: next })} />
          )}
        </div>
        {says.kind === "only_on" && (
          <>
            <Checkbox.Group
              label="Weekdays (none: any)"
              value={says.weekdays ?? []}
              onChange={(days) => say({ weekdays: DAYS.filter((d) => days.includes(d)) })}
            >
              <Group mt={6} gap="sm">
                {DAYS.map((d) => (
                  <Checkbox key={d} value={d} label={d.charAt(0).toUpperCase() + d.slice(1, 3)} />
                ))}
              </Group>
            </Checkbox.Group>
            <div className={siteClasses.fields}>
              <NativeSelect
                label="Dates"
                value={says.dates ?? "any"}
                data={[
                  { value: "any", label: "All" },
                  { value: "odd", label: "Odd dates (odd house numbers)" },
                  { value: "even", label: "Even dates (even house numbers)" },
                ]}
                onChange={(e) => {
                  const dates = e.currentTarget.value as keyof typeof DATES_NAMES;
                  // A name that says the other dates would say what is not so.
                  const isOurs = Object.values(DATES_NAMES).includes(rule.name);
                  change({
                    says: { ...says, dates } as Says,
                    ...(isOurs ? { name: DATES_NAMES[dates] } : {}),
                  });
                }}
              />
              <TextInput
                label="Every so many days"
                description="empty: every day"
                inputMode="numeric"
                value={says.every ? String(says.every.days) : ""}
                error={error(`${at}says.every.days`)}
                onChange={(e) => {
                  const days = Number.parseInt(e.currentTarget.value, 10);
                  const counted_from = says.every?.counted_from ?? today;
                  say({ every: Number.isNaN(days) ? null : { days: Math.min(days, 255), counted_from } });
                }}
              />
              {says.every && (
                <TextInput
                  label="Counted from"
                  type="date"
                  value={says.every.counted_from}
                  onChange={(e) =>
                    says.every && say({ every: { ...says.every, counted_from: e.currentTarget.value || today } })
                  }
                />
              )}
            </div>
          </>
        )}
        <div className={siteClasses.fields}>
          {says.kind !== "at_most" && (
            <>
              <TextInput
                label="Hours from"
                description="empty: all day"
                type="time"
                value={hoursOf?.from ?? ""}
                error={error(`${at}says.hours.from`)}
                onChange={(e) => setHours({ from: e.currentTarget.value })}
              />
              <TextInput
                label="Hours to"
                description="later on the same day"
                type="time"
                value={hoursOf?.to ?? ""}
                error={error(`${at}says.hours.to`)}
                onChange={(e) => setHours({ to: e.currentTarget.value })}
              />
            </>
          )}
          <TextInput
            label="First day"
            description="empty: already"
            type="date"
            value={rule.from ?? ""}
            error={error(`${at}from`)}
            onChange={(e) => change({ from: day(e.currentTarget.value) })}
          />
          <TextInput
            label="Last day"
            description="empty: until further notice"
            type="date"
            value={rule.to ?? ""}
            error={error(`${at}to`)}
            onChange={(e) => change({ to: day(e.currentTarget.value) })}
          />
          <NativeSelect
            label="During"
            value={rule.stage ?? ""}
            data={[
              { value: "", label: "Whatever the stage" },
              ...[...new Set([...stages, ...(rule.stage ? [rule.stage] : [])])].map((s) => ({ value: s, label: s })),
            ]}
            onChange={(e) => change({ stage: e.currentTarget.value || null })}
          />
        </div>
        <Checkbox.Group
          label="Zones (none: all)"
          value={rule.zones ?? []}
          onChange={(ids) => change({ zones: zones.map((z) => z.id).filter((id) => ids.includes(id)) })}
        >
          <Group mt={6} gap="sm">
            {zones.map((z) => (
              <Checkbox key={z.id} value={z.id} label={z.name} />
            ))}
          </Group>
        </Checkbox.Group>
        <Exempt rule={rule} number={number} zones={zones} error={error} onChange={change} />
        <Group>
          <Button variant="subtle" size="xs" onClick={onRemove}>
            Remove rule {number}
          </Button>
        </Group>
      </Stack>
    </fieldset>
  );
}

/** What a rule says when its kind is chosen. */
function saysOf(kind: Says["kind"], hours: Schemas["Hours"] | null | undefined): Says {
  switch (kind) {
    case "never":
      return { kind, hours: hours ?? null };
    case "only_on":
      return { kind, weekdays: [], dates: "any", every: null, hours: hours ?? null };
    case "at_most":
      return { kind, volume_l: 100_000, per: "week" };
  }
}

/** A volume in the reader's units, kept as it is typed. */
function Volume(props: { says: AtMost; error: string | undefined; onChange: (says: AtMost) => void }) {
  const { says, error, onChange } = props;
  const units = useUnits();
  const [typed, setTyped] = useState(units.toField("volume", says.volume_l));
  const value = parse(typed);
  const range = useQuery(catalogueQuery).data?.ranges.find((r) => r.name === "cap_l");
  const problem = () => {
    if (value === undefined) return `“${typed}” is not a number.`;
    const litres = units.toSi("volume", value);
    if (!range || (litres >= range.min && litres <= range.max)) return error;
    return `Between ${units.figure("volume", range.min)} and ${units.show("volume", range.max)}.`;
  };
  return (
    <>
      <TextInput
        label={`Volume, ${units.label("volume")}`}
        inputMode="decimal"
        value={typed}
        error={problem()}
        onChange={(e) => {
          setTyped(e.currentTarget.value);
          const next = parse(e.currentTarget.value);
          if (next !== undefined) onChange({ ...says, volume_l: units.toSi("volume", next) });
        }}
      />
      <NativeSelect
        label="In"
        value={says.per}
        data={[
          { value: "week", label: "a week from Monday" },
          { value: "day", label: "a day" },
        ]}
        onChange={(e) => onChange({ ...says, per: e.currentTarget.value as AtMost["per"] })}
      />
    </>
  );
}

type ExemptProps = Pick<Props, "rule" | "number" | "zones" | "error"> & { onChange: (part: Partial<Rule>) => void };

/** Who the rule does not hold for, and until when. */
function Exempt({ rule, number, zones, error, onChange }: ExemptProps) {
  const exempt = rule.exempt ?? [];
  const change = (index: number, part: Partial<Schemas["Exemption"]>) =>
    onChange({ exempt: exempt.map((e, i) => (i === index ? { ...e, ...part } : e)) });
  return (
    <div>
      {exempt.map((e, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: exemptions have no identity but their place
        <div key={i} className={siteClasses.fields}>
          <NativeSelect
            label={`Exempt ${i + 1}`}
            value={e.who}
            data={Object.entries(WHO).map(([value, label]) => ({ value, label }))}
            onChange={(event) =>
              change(i, {
                who: event.currentTarget.value as Schemas["ExemptWho"],
                zone: event.currentTarget.value === "zone" ? (e.zone ?? zones[0]?.id ?? null) : null,
              })
            }
          />
          {e.who === "zone" && (
            <NativeSelect
              label={`Exempt zone ${i + 1}`}
              value={e.zone ?? ""}
              data={zones.map((z) => ({ value: z.id, label: z.name }))}
              error={error(`rules.list[${number - 1}].exempt[${i}].zone`)}
              onChange={(event) => change(i, { zone: event.currentTarget.value })}
            />
          )}
          <TextInput
            label={`Exempt ${i + 1} until`}
            description="empty: as long as the rule"
            type="date"
            value={e.to ?? ""}
            error={error(`rules.list[${number - 1}].exempt[${i}].to`)}
            onChange={(event) => change(i, { to: event.currentTarget.value || null })}
          />
          <Button variant="subtle" size="xs" onClick={() => onChange({ exempt: exempt.filter((_, j) => j !== i) })}>
            Remove exemption {i + 1}
          </Button>
        </div>
      ))}
      <Button variant="subtle" size="xs" onClick={() => onChange({ exempt: [...exempt, { who: "new_seed" }] })}>
        Somebody is exempt from rule {number}
      </Button>
    </div>
  );
}
