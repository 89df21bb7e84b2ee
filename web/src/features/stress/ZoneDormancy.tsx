// One zone in a drought: how it stands, what is proposed, what keeps it alive, and its ledger day by day.
import { Button, Group, Modal, Stack, Text } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api";
import { dated, dayMonth, longDay, moment, whenDay } from "../../time";
import { useUnits } from "../../units";
import { grassName, isRooted } from "../reasons/words";
import { useRights } from "../session/rights";
import type { Regime, ZoneStress } from "./queries";
import { STEPS_OF_RECOVERY, stepWords } from "./recoveryWords";
import classes from "./Stress.module.css";
import { Strip } from "./Strip";
import { Turn } from "./Turn";
import { crownWords, pct, proposalWords, REGIME, type Rules, usedPct, wakingWords } from "./words";

type Recovery = Schemas["Recovery"];
type Props = { site: string; zone: ZoneStress; rules: Rules; today: string; timeZone: string };

export function ZoneDormancy({ site, zone, rules, today, timeZone }: Props) {
  const units = useUnits();
  const { manage } = useRights(site);
  const [turning, setTurning] = useState<Regime>();
  const { now, regime, proposes } = zone;
  const turns: { to: Regime; label: string }[] =
    regime === "dormant"
      ? [{ to: "recovering", label: "Wake it" }]
      : regime === "recovering"
        ? [
            { to: "established", label: "It is green again" },
            { to: "dormant", label: "Let it go" },
          ]
        : [
            ...(proposes ? [{ to: "established" as const, label: "Keep it green" }] : []),
            { to: "dormant", label: "Let it go" },
          ];
  return (
    <li className={classes.zone} aria-label={zone.name}>
      <div>
        <h2>{zone.name}</h2>
        <div className="quiet">{grassName(zone.grass)}</div>
        <div className={classes.state}>
          {REGIME[regime]}
          {zone.since ? ` since ${dated(zone.since)}` : ""}
        </div>
        {zone.kept_green_until && (
          <div className="quiet">As chosen: not asked again before {dayMonth(zone.kept_green_until)}.</div>
        )}
        {manage && isRooted(regime) && (
          <Group gap="xs" mt="xs">
            {turns.map(({ to, label }) => (
              <Button
                key={to}
                size="md"
                variant={proposes && turnOf(proposes.proposes) === to ? "filled" : "outline"}
                aria-label={`${label}, ${zone.name}`}
                onClick={() => setTurning(to)}
              >
                {label}
              </Button>
            ))}
          </Group>
        )}
      </div>
      <Stack gap="xs">
        {proposes && <div className={classes.proposed}>{proposalWords(proposes, rules, units)}</div>}
        {now ? (
          <Facts site={site} zone={zone} now={now} rules={rules} today={today} />
        ) : (
          <Text className="quiet">Its balance has not begun.</Text>
        )}
      </Stack>
      <div>{zone.days.length > 1 && <Strip zone={zone} limit={rules.dry_share} />}</div>
      {zone.days.length > 0 && <DayByDay zone={zone} rules={rules} today={today} timeZone={timeZone} />}
      <Modal
        opened={turning !== undefined}
        onClose={() => setTurning(undefined)}
        title={`${zone.name}: ${turning ? REGIME[turning] : ""}`}
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {turning && <Turn site={site} zone={zone} to={turning} onDone={() => setTurning(undefined)} />}
      </Modal>
    </li>
  );
}

const turnOf = (proposes: "let_go" | "wake"): Regime => (proposes === "let_go" ? "dormant" : "recovering");

type FactsProps = { site: string; zone: ZoneStress; now: NonNullable<ZoneStress["now"]>; rules: Rules; today: string };

function Facts({ site, zone, now, rules, today }: FactsProps) {
  const units = useUnits();
  const { asleep } = zone;
  // Days that were kept before storage counted have none.
  const share = asleep?.safety.storage_share ?? 1;
  return (
    <dl className={classes.facts}>
      <div>
        <dt>Of its water gone</dt>
        <dd>
          {usedPct(now)} %
          {zone.regime !== "dormant" &&
            now.dry_days > 0 &&
            `, above ${pct(rules.dry_share)} % on ${now.dry_days} of the last ${rules.of_days} days`}
        </dd>
      </div>
      {asleep && (
        <div>
          <dt>Next for its crowns</dt>
          <dd>
            {crownWords(asleep.crowns, today, units)}; {asleep.crowns.every_days} days{" "}
            {now.wetted ? `after the wetting of ${longDay(now.wetted)}` : "apart, and nobody knows when they were wet"},
            if no rain comes
            <span className="quiet">
              {" "}
              (other practice: {crownWords(asleep.other_way, today, units)}, every {asleep.other_way.every_days} days)
            </span>
          </dd>
        </div>
      )}
      {asleep && (
        <div>
          <dt>Days of heat left</dt>
          <dd>
            <strong>{Math.floor(asleep.safety.left_days)}</strong> of {Math.round(asleep.safety.grass_days * share)}
            {share < 0.995 && ` (${asleep.safety.grass_days} in deep loam; this ground stores less)`}:{" "}
            {asleep.safety.spent_days.toFixed(1)} are spent since its crowns were wet
            {asleep.safety.left_days < 7 && asleep.safety.left_days >= 0 && (
              <strong>. Water its crowns within days.</strong>
            )}
            {asleep.safety.left_days < 0 && <strong>. Longer than this grass usually survives.</strong>}
          </dd>
        </div>
      )}
      {asleep && (
        <div>
          <dt>Wakes with</dt>
          <dd>{wakingWords(asleep.waking, rules, units)}</dd>
        </div>
      )}
      {zone.regime === "dormant" && (
        <div>
          <dt>While it sleeps</dt>
          <dd>no traffic or play, no mowing unless needed, no weed killer, no quick-release nitrogen</dd>
        </div>
      )}
      {zone.recovery && (
        <div>
          <dt>While it wakes</dt>
          <dd>
            {zone.recovery.steps
              .filter((step) => step.when === "now")
              .map((step) => `${STEPS_OF_RECOVERY[step.step]} ${stepWords(step, zone.recovery as Recovery, today)} `)}
            <Link to="/site/$site/stress/recovery" params={{ site }}>
              Every step, and patches
            </Link>
          </dd>
        </div>
      )}
      {now.sleeps > 1 && (
        <div>
          <dt>In and out</dt>
          <dd>
            <strong>It fell asleep {now.sleeps} times this year</strong>: each time costs reserves; keep to one choice.
          </dd>
        </div>
      )}
    </dl>
  );
}

function DayByDay({ zone, rules, today, timeZone }: Omit<Props, "site">) {
  const units = useUnits();
  return (
    <details>
      <summary>Day by day, and who decided what</summary>
      {zone.changes.map((change) => (
        <p key={change.said_at}>
          {moment(change.said_at, timeZone)}: {change.who ?? "somebody"} – {REGIME[change.regime]} from{" "}
          {longDay(change.from)} on, {change.proposal ? "as proposed" : "chosen"}.{" "}
          {change.proposal ? proposalWords(change.proposal, rules, units) : ""} {change.note ? `“${change.note}”` : ""}
        </p>
      ))}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
      <section className={classes.scroll} tabIndex={0} aria-label={`${zone.name} day by day`}>
        <table className={classes.table}>
          <thead>
            <tr>
              <th scope="col">Day</th>
              <th scope="col">State</th>
              <th scope="col">Water gone</th>
              <th scope="col">Dry days of {rules.of_days}</th>
              <th scope="col">Crowns wet</th>
              <th scope="col">Days of heat left</th>
              <th scope="col">Proposed</th>
            </tr>
          </thead>
          <tbody>
            {[...zone.days].reverse().map((day) => (
              <tr key={day.date}>
                <th scope="row">{longDay(day.date)}</th>
                <td>{REGIME[day.regime]}</td>
                <td>{usedPct(day)} %</td>
                <td>{day.dry_days}</td>
                <td>{day.wetted ? whenDay(day.wetted, today) : "not known"}</td>
                <td>{day.asleep ? Math.floor(day.asleep.safety.left_days) : ""}</td>
                <td>{day.proposes ? (day.proposes.proposes === "let_go" ? "let it go" : "wake it") : ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </details>
  );
}
