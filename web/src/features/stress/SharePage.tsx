// Too little water: a volume for the week, who gets what of it, what that costs, and the plan held to it.
import { Button, Group, NativeSelect, Stack, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import type { SiteView } from "../../api";
import { addDays, dayMonth, longDay } from "../../time";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import { useSaveRules } from "../rules/queries";
import { useRights } from "../session/rights";
import { Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery, siteQuery } from "../site/queries";
import { BackToStress } from "./BackToStress";
import { HarmCurve } from "./HarmCurve";
import { type Scarcity, scarcityQuery } from "./queries";
import classes from "./Stress.module.css";

/** Cuts that drought stages ask for, %. */
const CUTS = [10, 15, 20, 25, 30, 40, 50, 75];
/** Days that the plan is held to a volume unless somebody says otherwise: four weeks. */
const HELD_DAYS = 27;

type ZoneShare = Scarcity["zones"][number];
type Turn = ZoneShare["turn"];

/** Who comes before whom, with the words for it in the table: those without words for being served are told by the water that turf misses. */
const TURNS: { turn: Turn; what?: string; rank?: string; short?: string; served?: string }[] = [
  { turn: "trees", what: " (trees)", rank: "first" },
  { turn: "new_grass", what: " (new grass)", rank: "early", short: "dries out", served: "nothing" },
  { turn: "crowns", what: " (crowns)", rank: "early", short: "not safe", served: "safe" },
  { turn: "green" },
];

/** Whether a zone gets less than it needs, by more than a litre. */
const isShort = (z: ZoneShare) => z.gets_l < z.needs_l - 1;

export function SharePage() {
  const { site } = useParams({ from: "/site/$site/stress/share" });
  const [litres, setLitres] = useState<number>();
  const view = useQuery(siteQuery(site));
  const scarcity = useQuery(scarcityQuery(site, litres));
  const error = view.error ?? (scarcity.data ? null : scarcity.error);
  if (error) return <Failed message={error.message} retry={() => scarcity.refetch()} />;
  if (!view.data || !scarcity.data) return <Loading what="the shares" />;
  return (
    <main className={classes.page}>
      <BackToStress site={site} />
      <h1>Too little water</h1>
      <Share site={site} view={view.data} scarcity={scarcity.data} onShare={setLitres} error={scarcity.error} />
    </main>
  );
}

type Props = {
  site: string;
  view: SiteView;
  scarcity: Scarcity;
  onShare: (litres: number) => void;
  error: Error | null;
};

function Share({ site, view, scarcity, onShare, error }: Props) {
  const units = useUnits();
  const { manage } = useRights(site);
  const { volume_l, needed_l, new_grass_l, crowns_l, zones } = scarcity;
  const show = (litres: number) => units.show("volume", litres);
  const served = (turn: Turn) => zones.every((z) => z.turn !== turn || !isShort(z));
  const within = [
    ...(new_grass_l > 0 ? [`${show(new_grass_l)} of it for new grass`] : []),
    ...(crowns_l > 0 ? [`${show(crowns_l)} of it for crowns of zones that are let go`] : []),
  ];
  const enough = volume_l >= needed_l - 1;
  return (
    <>
      <Text>
        From {longDay(scarcity.from)} to {longDay(scarcity.to)} the lawn needs <strong>{show(needed_l)}</strong> out of
        the sprinklers so that no zone goes short, without counting on rain
        {within.map((part) => `; ${part}`).join("")}.
      </Text>
      {scarcity.caps.map((cap) => (
        <Text key={`${cap.rule} ${cap.from}`}>
          The rule “{cap.rule}” leaves {show(cap.left_l)} from {dayMonth(cap.from)} to {dayMonth(cap.to)}.
        </Text>
      ))}
      <Volume site={site} scarcity={scarcity} onShare={onShare} error={error} />
      <Text role="status" my="xs">
        <strong>
          With {show(volume_l)}
          {needed_l > 0 ? ` (${Math.round((100 * volume_l) / needed_l)} % of that)` : ""}
        </strong>{" "}
        {enough
          ? "no zone goes short for want of water"
          : `the harm is ${Math.round(scarcity.harm_pct)} % of that without any water`}
        .
        {new_grass_l > 0 &&
          (served("new_grass") ? " New grass gets all that it needs." : " It does not keep new grass moist.")}
        {crowns_l > 0 &&
          (served("crowns")
            ? " The crowns of what is let go are safe."
            : " It does not hold what the crowns of what is let go are due.")}
        {scarcity.unspared_pct >= 0.5 &&
          ` No volume prevents ${Math.round(scarcity.unspared_pct)} % of the harm: the allowed hours are too short for it.`}
      </Text>
      <div className={classes.shares}>
        <Parts scarcity={scarcity} />
        {scarcity.curve.length > 1 && <HarmCurve scarcity={scarcity} />}
      </div>
      {manage && volume_l > 0 && !enough && <HoldTo site={site} view={view} scarcity={scarcity} />}
      <Text className={classes.cautions}>
        Trees in the lawn come first, then new grass, then crowns, then the zones where the same water prevents most
        harm, by their rank (Site, Zones). New grass needs what its waterings of the week come to (New grass). Harm is
        the water that turf would use and misses. Each zone’s allowed hours are counted, not the clock: on full nights
        the plan gives less. Local watering rules decide who may water at all.
      </Text>
    </>
  );
}

function Volume({ site, scarcity, onShare, error }: Pick<Props, "site" | "scarcity" | "onShare" | "error">) {
  const catalogue = useQuery(catalogueQuery);
  const figures = useFigures({ litres: scarcity.volume_l });
  const [cut, setCut] = useState("");
  const [problem, setProblem] = useState<string>();
  const share = (event: FormEvent) => {
    event.preventDefault();
    if (!catalogue.data) return;
    const found = figures.problem("litres", { quantity: "volume", required: true }, catalogue.data);
    setProblem(found);
    const litres = figures.si("litres", "volume");
    setCut("");
    if (!found && litres !== undefined) onShare(litres);
  };
  return (
    <form onSubmit={share} noValidate>
      <Group align="flex-end" gap="xs" my="sm">
        <FigureField
          figures={figures}
          name="litres"
          label="Water for these seven days"
          quantity="volume"
          error={problem ?? error?.message}
          onType={() => setProblem(undefined)}
        />
        <Button type="submit" size="md" variant="outline">
          Share it out
        </Button>
        <NativeSelect
          label="Or a stage’s cut"
          value={cut}
          data={[
            { value: "", label: "none" },
            ...CUTS.map((pct) => ({ value: String(pct), label: `${pct} % less than it needs` })),
          ]}
          onChange={(e) => {
            const chosen = e.currentTarget.value;
            const litres = scarcity.needed_l * (1 - Number(chosen) / 100);
            setCut(chosen);
            setProblem(undefined);
            figures.fill({ litres });
            onShare(litres);
          }}
        />
      </Group>
      <Text className="quiet">
        Fewer allowed days are{" "}
        <Link to="/site/$site/settings" params={{ site }} search={{ tab: "rules" }}>
          a rule of the site
        </Link>
        : once it is saved it is counted here.
      </Text>
    </form>
  );
}

function Parts({ scarcity }: { scarcity: Scarcity }) {
  const units = useUnits();
  const lost = (z: ZoneShare) => (z.needs_l > 0 ? 1 - z.gets_l / z.needs_l : 0);
  const turn = (z: ZoneShare) => TURNS.findIndex((t) => t.turn === z.turn);
  const zones = [...scarcity.zones].sort((a, b) => turn(a) - turn(b) || lost(b) - lost(a));
  // The rows add up to what is said above them.
  const needs = units.account(
    "volume",
    zones.map((z) => z.needs_l),
    scarcity.needed_l,
  );
  const goesShortBy = (z: ZoneShare) => {
    const { short, served } = TURNS[turn(z)] ?? {};
    if (short && served) return isShort(z) ? short : served;
    if (z.missed_without_mm < 0.05) return "nothing";
    return `${units.figure("depth", z.missed_mm)} of ${units.figure("depth", z.missed_without_mm)}`;
  };
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too
    <section className={classes.scroll} tabIndex={0} aria-label="Who gets what">
      <table className={classes.table}>
        <caption>Who gets what</caption>
        <thead>
          <tr>
            <th scope="col">Zone</th>
            <th scope="col">Rank</th>
            <th scope="col">Needs, {units.label("volume")}</th>
            <th scope="col">Gets, {units.label("volume")}</th>
            <th scope="col">Goes short by, {units.label("depth")}</th>
          </tr>
        </thead>
        <tbody>
          {zones.map((z, i) => (
            <tr key={z.zone}>
              <th scope="row">
                {z.name}
                {TURNS[turn(z)]?.what}
              </th>
              <td>{TURNS[turn(z)]?.rank ?? z.rank}</td>
              <td>{needs[i]}</td>
              <td data-step={isShort(z) || undefined}>{units.figure("volume", z.gets_l)}</td>
              <td>{goesShortBy(z)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function HoldTo({ site, view, scarcity }: { site: string; view: SiteView; scarcity: Scarcity }) {
  const units = useUnits();
  const [until, setUntil] = useState(addDays(scarcity.from, HELD_DAYS));
  const save = useSaveRules(site, () =>
    notifications.show({ message: "The plan keeps to it: the rule is among those of the site." }),
  );
  const hold = () => {
    const rule = {
      name: "Water is short",
      from: scarcity.from,
      to: until,
      says: { kind: "at_most" as const, volume_l: Math.round(scarcity.volume_l), per: "week" as const },
    };
    // Of an earlier such rule this takes the place.
    const others = (view.rules.list ?? []).filter((r) => r.name !== rule.name);
    save.mutate({ version: view.version, rules: { ...view.rules, list: [...others, rule] } });
  };
  return (
    <section>
      <h2 className={classes.ledgers}>Hold the plan to it</h2>
      <Text>
        A rule of the site: at most {units.show("volume", scarcity.volume_l)} a week, counted from Monday on with what
        ran since. The plan shares it night by night as above.
      </Text>
      <Stack gap="xs" align="flex-start" mt="xs">
        <TextInput
          label="Until"
          type="date"
          value={until}
          min={scarcity.from}
          error={until && until < scarcity.from ? `It begins on ${longDay(scarcity.from)}.` : undefined}
          onChange={(e) => setUntil(e.currentTarget.value)}
        />
        <Refused error={save.error} />
        <Button size="md" loading={save.isPending} disabled={until < scarcity.from} onClick={hold}>
          Hold the plan to {units.show("volume", scarcity.volume_l)} a week
        </Button>
        <Link to="/site/$site/settings" params={{ site }} search={{ tab: "rules" }}>
          The rules of the site
        </Link>
      </Stack>
    </section>
  );
}
