// What water costs from a day on: tiers of a month, other rates in some months, sewage, a surcharge in drought, the month's fee.
import { Button, Fieldset, Group, NativeSelect, Stack, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ApiFailure, type SiteView } from "../../api";
import { parse, print } from "../../numbers";
import { dated } from "../../time";
import { useUnits } from "../../units";
import { Refused } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import classes from "./Book.module.css";
import { type Tariff, useSaveTariffs } from "./queries";

/** A tier as it is typed, in the reader's units. */
type Tier = { upTo: string; price: string };
type Rates = { first: string; last: string; tiers: Tier[] };
type Typed = {
  from: string;
  fee: string;
  house: string;
  tiers: Tier[];
  seasons: Rates[];
  share: string;
  sewer: string;
  surcharge: string;
};

const MONTHS = Array.from({ length: 12 }, (_, i) => ({
  value: String(i + 1),
  label: new Intl.DateTimeFormat("en-GB", { month: "long", timeZone: "UTC" }).format(new Date(Date.UTC(2026, i, 15))),
}));

/** Of what kind a typed figure is: its range, and how a limit of it is shown. */
type Of = { range: string; shown: (si: number) => string; unit: string };

type Props = { site: string; view: SiteView; onDone: () => void };

export function TariffForm({ site, view, onDone }: Props) {
  const units = useUnits();
  const catalogue = useQuery(catalogueQuery);
  const ranges = catalogue.data?.ranges ?? [];
  const kept = view.tariffs;
  const last = kept[kept.length - 1];
  const shown = (m3: number) => units.toField("volume", m3 * 1000);
  const price = (perM3: number) => units.toField("price", perM3);
  const typedTiers = (tiers: Tariff["tiers"]): Tier[] =>
    tiers.map((t) => ({ upTo: t.up_to_m3 == null ? "" : shown(t.up_to_m3), price: price(t.price_per_m3) }));
  // The units in which the form was opened: switching closes nothing, the figures are sent as they stand.
  const [system] = useState(units.system);
  const [typed, setTyped] = useState<Typed>(() => ({
    from: last?.from ?? `${view.today.slice(0, 4)}-01-01`,
    fee: String(last?.fixed_per_month ?? 0),
    house: shown(last?.house_m3 ?? 0),
    tiers: last
      ? typedTiers(last.tiers)
      : [{ upTo: "", price: view.site.price_per_m3 == null ? "" : price(view.site.price_per_m3) }],
    seasons: (last?.seasons ?? []).map((s) => ({
      first: String(s.first_month),
      last: String(s.last_month),
      tiers: typedTiers(s.tiers),
    })),
    share: last?.sewer ? String(last.sewer.share * 100) : "",
    sewer: last?.sewer ? price(last.sewer.price_per_m3) : "",
    surcharge: String(last?.surcharge_pct ?? 0),
  }));
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const save = useSaveTariffs(site, () => {
    notifications.show({ message: "Saved, and planned again." });
    onDone();
  });
  const set = (part: Partial<Typed>) => setTyped({ ...typed, ...part });

  const submit = (event: FormEvent) => {
    event.preventDefault();
    const found: Record<string, string> = {};
    // What is typed, held to its range in the units in which it is typed.
    const number = (field: string, text: string, of: Of, required = false): number => {
      if (text.trim() === "") {
        if (required) found[field] = "Fill this in.";
        return 0;
      }
      const value = parse(text);
      const range = ranges.find((r) => r.name === of.range);
      const [least, most] = [of.shown(range?.min ?? 0), of.shown(range?.max ?? Number.POSITIVE_INFINITY)];
      if (value === undefined) found[field] = `“${text.trim()}” is not a number.`;
      else if (value < Number(least) || value > Number(most))
        found[field] = `Between ${print(Number(least))} and ${print(Number(most))}${of.unit ? ` ${of.unit}` : ""}.`;
      return value ?? 0;
    };
    const volume: Of = { range: "up_to_m3", shown, unit: units.label("volume") };
    const house: Of = { ...volume, range: "house_m3" };
    const perM3: Of = { range: "price_per_m3", shown: price, unit: units.label("price") };
    const share: Of = { range: "share", shown: (x) => String(x * 100), unit: "%" };
    const plain = (range: string, unit: string): Of => ({ range, shown: String, unit });
    const tiers = (path: string, typedTiers: Tier[]): Tariff["tiers"] =>
      typedTiers.map((t, i) => ({
        ...(i === typedTiers.length - 1
          ? {}
          : { up_to_m3: units.toSi("volume", number(`${path}[${i}].up_to_m3`, t.upTo, volume, true)) / 1000 }),
        price_per_m3: units.toSi("price", number(`${path}[${i}].price_per_m3`, t.price, perM3, true)),
      }));
    const tariff: Tariff = {
      from: typed.from,
      fixed_per_month: number("fixed_per_month", typed.fee, plain("fixed_per_month", "")),
      house_m3: units.toSi("volume", number("house_m3", typed.house, house)) / 1000,
      tiers: tiers("tiers", typed.tiers),
      seasons: typed.seasons.map((s, i) => ({
        first_month: Number(s.first),
        last_month: Number(s.last),
        tiers: tiers(`seasons[${i}].tiers`, s.tiers),
      })),
      ...(typed.share.trim() === "" && typed.sewer.trim() === ""
        ? {}
        : {
            sewer: {
              share: number("sewer.share", typed.share, share, true) / 100,
              price_per_m3: units.toSi("price", number("sewer.price_per_m3", typed.sewer, perM3, true)),
            },
          }),
      surcharge_pct: number("surcharge_pct", typed.surcharge, plain("surcharge_pct", "%")),
    };
    setWrong(found);
    if (Object.keys(found).length > 0) return;
    // One that begins on the same day is replaced; those before stay as they were.
    const others = kept.filter((t) => t.from !== tariff.from);
    const tariffs = [...others, tariff].sort((a, b) => a.from.localeCompare(b.from));
    save.mutate({ version: view.version, tariffs });
  };
  const refused = save.error instanceof ApiFailure ? save.error.problem : undefined;
  // The server names the tariff too: here it is the one that is typed.
  const at = refused?.field?.replace(/^tariffs\[\d+\]\./, "");
  const error = (field: string) => wrong[field] ?? (at === field ? refused?.detail : undefined);
  if (system !== units.system) {
    return <Text>These figures were typed in other units: switch back, or close this and open it again.</Text>;
  }
  const volume = units.label("volume");
  const per = units.label("price");
  const tierRows = (path: string, rows: Tier[], of: string, change: (tiers: Tier[]) => void) => (
    <TierRows path={path} of={of} tiers={rows} volume={volume} per={per} error={error} onChange={change} />
  );
  return (
    <form onSubmit={submit} aria-label="What water costs">
      <Stack gap="sm">
        {kept.length > 0 && (
          <ul className={classes.tariffs} aria-label="What is known">
            {kept.map((t) => (
              <li key={t.from}>
                From {dated(t.from)}: {t.tiers.length === 1 ? "one price" : `${t.tiers.length} tiers`}{" "}
                <Button
                  size="compact-sm"
                  variant="subtle"
                  loading={save.isPending}
                  aria-label={`Take out what holds from ${dated(t.from)}`}
                  onClick={() => save.mutate({ version: view.version, tariffs: kept.filter((o) => o !== t) })}
                >
                  Take it out
                </Button>
              </li>
            ))}
          </ul>
        )}
        <TextInput
          type="date"
          label="From"
          description="The first day on which it holds. What held before stays in the book."
          value={typed.from}
          error={error("from")}
          onChange={(e) => set({ from: e.currentTarget.value })}
        />
        {tierRows("tiers", typed.tiers, "", (tiers) => set({ tiers }))}
        {typed.seasons.map((season, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: seasons have no identity but their place
          <Fieldset key={i} legend="Other rates in some months">
            <Group grow>
              <NativeSelect
                label="From the month"
                data={MONTHS}
                value={season.first}
                error={error(`seasons[${i}].first_month`)}
                onChange={(e) => set({ seasons: typed.seasons.with(i, { ...season, first: e.currentTarget.value }) })}
              />
              <NativeSelect
                label="to the month"
                data={MONTHS}
                value={season.last}
                error={error(`seasons[${i}].last_month`)}
                onChange={(e) => set({ seasons: typed.seasons.with(i, { ...season, last: e.currentTarget.value }) })}
              />
            </Group>
            {tierRows(`seasons[${i}].tiers`, season.tiers, " in these months", (tiers) =>
              set({ seasons: typed.seasons.with(i, { ...season, tiers }) }),
            )}
            <Button
              size="xs"
              variant="subtle"
              onClick={() => set({ seasons: typed.seasons.filter((_, other) => other !== i) })}
            >
              Take these months out
            </Button>
          </Fieldset>
        ))}
        <Group>
          <Button
            size="xs"
            variant="outline"
            onClick={() => set({ seasons: [...typed.seasons, { first: "6", last: "9", tiers: typed.tiers }] })}
          >
            Other rates in some months
          </Button>
        </Group>
        <TextInput
          label={`Fee of the month${view.site.currency ? `, ${view.site.currency}` : ""}`}
          inputMode="decimal"
          value={typed.fee}
          error={error("fixed_per_month")}
          onChange={(e) => set({ fee: e.currentTarget.value })}
        />
        <TextInput
          label={`What the house uses on the same bill, ${volume} a month`}
          description="It fills the first tiers; the lawn comes on top."
          inputMode="decimal"
          value={typed.house}
          error={error("house_m3")}
          onChange={(e) => set({ house: e.currentTarget.value })}
        />
        <Group grow align="end">
          <TextInput
            label="Charged as sewage, % of the water"
            inputMode="decimal"
            value={typed.share}
            error={error("sewer.share")}
            onChange={(e) => set({ share: e.currentTarget.value })}
          />
          <TextInput
            label={`Price of sewage, ${per}`}
            inputMode="decimal"
            value={typed.sewer}
            error={error("sewer.price_per_m3")}
            onChange={(e) => set({ sewer: e.currentTarget.value })}
          />
        </Group>
        <TextInput
          label="Surcharge in drought, % of the price of water"
          inputMode="decimal"
          value={typed.surcharge}
          error={error("surcharge_pct")}
          onChange={(e) => set({ surcharge: e.currentTarget.value })}
        />
        <Refused error={save.error && error(at ?? "") === undefined ? save.error : null} />
        <Group>
          <Button type="submit" loading={save.isPending}>
            Save what water costs
          </Button>
        </Group>
      </Stack>
    </form>
  );
}

type RowsProps = {
  path: string;
  /** What tells these tiers from others, in their labels. */
  of: string;
  tiers: Tier[];
  volume: string;
  per: string;
  error: (field: string) => string | undefined;
  onChange: (tiers: Tier[]) => void;
};

function TierRows({ path, of, tiers, volume, per, error, onChange }: RowsProps) {
  const change = (i: number, part: Partial<Tier>) =>
    onChange(tiers.map((t, other) => (other === i ? { ...t, ...part } : t)));
  return (
    <div>
      {tiers.map((tier, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: tiers have no identity but their place
        <Group key={i} align="start" className={classes.tier}>
          {i < tiers.length - 1 ? (
            <TextInput
              label={`Tier ${i + 1}${of}: up to, ${volume} a month`}
              inputMode="decimal"
              value={tier.upTo}
              error={error(`${path}[${i}].up_to_m3`)}
              onChange={(e) => change(i, { upTo: e.currentTarget.value })}
            />
          ) : (
            tiers.length > 1 && <Text className={classes.rest}>The rest{of}</Text>
          )}
          <TextInput
            label={tiers.length > 1 ? `Price of tier ${i + 1}${of}, ${per}` : `Price of water${of}, ${per}`}
            inputMode="decimal"
            value={tier.price}
            error={error(`${path}[${i}].price_per_m3`)}
            onChange={(e) => change(i, { price: e.currentTarget.value })}
          />
        </Group>
      ))}
      {error(path) && <Text c="var(--mantine-color-error)">{error(path)}</Text>}
      <Group gap="xs" mt={6}>
        <Button
          size="xs"
          variant="outline"
          onClick={() => onChange([...tiers.slice(0, -1), { upTo: "", price: "" }, ...tiers.slice(-1)])}
        >
          Add a tier{of}
        </Button>
        {tiers.length > 1 && (
          <Button size="xs" variant="subtle" onClick={() => onChange(tiers.filter((_, i) => i !== tiers.length - 2))}>
            Take tier {tiers.length - 1} out{of}
          </Button>
        )}
      </Group>
    </div>
  );
}
