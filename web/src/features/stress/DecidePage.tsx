// Before a drought: keep each zone green, or let it go? By the site's own past summers; one choice, and kept.
import { Button, Group, Modal, Progress, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api";
import { roundAmount } from "../../money";
import { dayMonth, longDay, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { grassName } from "../reasons/words";
import { useRights } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import { BackToStress } from "./BackToStress";
import classes from "./Decide.module.css";
import { anewWords, brownWords, dateRange, range, savedShare, survivalWords } from "./decideWords";
import { type Decision, type Regime, stressQuery, useDecision, type ZoneStress } from "./queries";
import { Turn } from "./Turn";
import { pct, REGIME, type Rules } from "./words";

type Choice = Schemas["DecideZone"];

export function DecidePage() {
  const { site } = useParams({ from: "/site/$site/stress/decide" });
  const view = useQuery(siteQuery(site));
  const stress = useQuery(stressQuery(site));
  const { decision, progress, error, again } = useDecision(site);
  const failure = view.error ?? stress.error ?? error;
  if (failure) return <Failed message={failure.message} retry={again} />;
  if (!view.data || !stress.data) return <Loading what="the past summers" />;
  return (
    <main className={classes.page}>
      <BackToStress site={site} />
      <h1>Keep green, or let go?</h1>
      {decision ? (
        <Decide
          site={site}
          decision={decision}
          stress={stress.data.zones}
          rules={stress.data.rules}
          currency={view.data.site.currency}
        />
      ) : (
        <div role="status">
          <Text>
            {progress ? `Past summers: ${progress.done} of ${progress.of} are computed.` : "Reading the past summers …"}
          </Text>
          <Progress
            value={progress ? (100 * progress.done) / progress.of : 0}
            aria-label="Past summers"
            maw={420}
            my="xs"
          />
        </div>
      )}
    </main>
  );
}

type Currency = string | null | undefined;
type Props = { site: string; decision: Decision; stress: ZoneStress[]; rules: Rules; currency: Currency };

function Decide({ site, decision, stress, rules, currency }: Props) {
  const units = useUnits();
  const [turning, setTurning] = useState<{ zone: ZoneStress; to: Regime }>();
  const { summers, zones } = decision;
  const first = summers[0];
  if (first === undefined) {
    return (
      <Text>
        The record has no whole past summer from {dayMonth(decision.from)} on. Import past years of weather (Site,
        Weather), and we compute from them what each choice takes.
      </Text>
    );
  }
  const total = (of: (zone: Choice) => number | undefined) => zones.reduce((sum, zone) => sum + (of(zone) ?? 0), 0);
  const most = Math.max(...zones.map((zone) => zone.green_l?.high ?? 0), 1);
  const money = (litres: number) =>
    decision.price_per_m3 == null ? "" : `, ${roundAmount((litres / 1000) * decision.price_per_m3, currency)}`;
  return (
    <>
      <Text>
        {summers.length === 1
          ? `By the one past summer on record, ${first}`
          : `By ${summers.length} past summers, ${first} to ${summers[summers.length - 1]}`}
        , from {longDay(decision.from)} until a zone could wake, {longDay(decision.to)} at the latest. All green takes{" "}
        <strong>
          {units.show(
            "volume",
            total((z) => z.green_l?.middle),
          )}
        </strong>
        {money(total((z) => z.green_l?.middle))}; all let go{" "}
        <strong>
          {units.show(
            "volume",
            total((z) => z.crowns_l?.middle),
          )}
        </strong>
        {money(total((z) => z.crowns_l?.middle))}.
      </Text>
      <Text className="quiet">
        Choose once and keep to it: turf that goes in and out of sleep wears out its reserves.
        {summers.length > 1 ? " The middle summer is shown, with the least and the most." : ""}
        {decision.price_per_m3 == null ? "" : " Money is by the price of the next water."}
      </Text>
      <ul className={classes.zones}>
        {zones.map((zone) => {
          const own = stress.find((z) => String(z.zone) === zone.zone);
          return (
            own && (
              <Zone
                key={zone.zone}
                site={site}
                choice={zone}
                own={own}
                summers={summers.length}
                most={most}
                money={money}
                onTurn={(to) => setTurning({ zone: own, to })}
              />
            )
          );
        })}
      </ul>
      <details className={classes.working}>
        <summary>How we compute it</summary>
        <p>
          Each past summer’s weather is put on this year’s days, and every zone is watered back to full as it needs, or
          let go today. Brown: more than {pct(rules.dry_share)} % of its water gone on {rules.dry_days} of{" "}
          {rules.of_days} days. Lost: more days of heat than its grass survives since its crowns were last wet. Could
          wake: after {rules.asleep_days} days asleep, with {units.show("depth", rules.rain_mm)} of rain in{" "}
          {rules.rain_days} days and {rules.mild_days} mild days running. Work by hand is{" "}
          {units.system === "us" ? "half a minute a square foot" : "five minutes a square metre"}.
        </p>
      </details>
      <Text className={classes.cautions}>
        Rules that hold now are kept in every past summer. Rain on record is counted, no forecast. Local watering rules
        decide who may water at all; keep play and mowers off what sleeps.
      </Text>
      <Modal
        opened={turning !== undefined}
        onClose={() => setTurning(undefined)}
        title={turning ? `${turning.zone.name}: ${REGIME[turning.to]}` : ""}
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {turning && <Turn site={site} zone={turning.zone} to={turning.to} onDone={() => setTurning(undefined)} />}
      </Modal>
    </>
  );
}

type ZoneProps = {
  site: string;
  choice: Choice;
  own: ZoneStress;
  summers: number;
  most: number;
  money: (litres: number) => string;
  onTurn: (to: Regime) => void;
};

function Zone({ site, choice, own, summers, most, money, onTurn }: ZoneProps) {
  const units = useUnits();
  const { manage } = useRights(site);
  const volume = (litres: number) => units.figure("volume", litres);
  const asleep = own.regime === "dormant";
  const water = (of: Choice["green_l"]) =>
    of && (
      <>
        <p>
          <strong>{units.show("volume", of.middle)}</strong>
          {summers > 1 && ` (${range(of, volume)})`}
          {money(of.middle)}
        </p>
        <div className={classes.bar} aria-hidden="true">
          <span style={{ width: `${(100 * of.middle) / most}%` }} />
        </div>
      </>
    );
  return (
    <li className={classes.zone} aria-label={choice.name}>
      <div>
        <h2>{choice.name}</h2>
        <p className="quiet">
          {sentenceCase(grassName(own.grass))}, {units.show("area", choice.area_m2)}
        </p>
        <p>
          <strong>{sentenceCase(REGIME[own.regime])}</strong>
          {own.kept_green_until
            ? `, as chosen: not asked again before ${dayMonth(own.kept_green_until)}`
            : own.since && asleep
              ? ` since ${dayMonth(own.since)}`
              : ""}
        </p>
      </div>
      <div>
        <h3>Kept green</h3>
        {water(choice.green_l)}
        {choice.green_dry_days && choice.green_dry_days.middle > 0 && (
          <p>
            And yet it ends {choice.green_dry_days.middle} days nearly empty: the allowed hours do not hold what it
            needs.
          </p>
        )}
      </div>
      <div>
        <h3>Let go, its crowns watered</h3>
        {water(choice.crowns_l)}
        <p>{savedShare(choice)}</p>
        <p>{brownWords(choice, summers)}</p>
        <p>
          {choice.wakes
            ? `Could wake ${summers > 1 ? `${dayMonth(choice.wakes.middle)} (${dateRange(choice.wakes)})` : dayMonth(choice.wakes.middle)}${choice.wakes.years < summers ? `; in ${summers - choice.wakes.years} of ${summers} summers not in time` : ""}.`
            : "No rain and mild days came together in time to wake it."}
        </p>
        <p>{survivalWords(choice, summers)}</p>
        <p className="quiet">
          If it is lost: {anewWords(choice, units)};{" "}
          {choice.spreads ? "it closes small gaps by itself" : "its gaps are sown, it does not close them itself"}.
        </p>
      </div>
      {manage && (
        <Group gap="xs" className={classes.choice ?? ""}>
          {!asleep && !own.kept_green_until && (
            <Button
              size="md"
              variant="outline"
              aria-label={`Keep it green, ${choice.name}`}
              onClick={() => onTurn("established")}
            >
              Keep it green
            </Button>
          )}
          {!asleep && (
            <Button
              size="md"
              variant="outline"
              aria-label={`Let it go, ${choice.name}`}
              onClick={() => onTurn("dormant")}
            >
              Let it go
            </Button>
          )}
        </Group>
      )}
    </li>
  );
}
