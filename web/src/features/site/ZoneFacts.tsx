// The figures that plans use of a zone: each on a line from its least to its greatest, its source, and what would sharpen it.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api";
import type { Quantity } from "../../quantities";
import { dayMonth } from "../../time";
import { useUnits } from "../../units";
import { Term, type TermName } from "../reasons/Term";
import { Failed, Loading } from "../shell/States";
import { wayOf } from "../soil/WorthList";
import { zoneFactsQuery } from "./queries";
import classes from "./ZoneFacts.module.css";

type Fact = Schemas["ZoneFact"];

type Shown = { name: string; term: TermName; quantity?: Quantity; digits?: number; unit?: string };

const FIGURES: Record<Schemas["ZoneFigure"], Shown> = {
  rate: { name: "Precipitation rate", term: "precipitation rate", quantity: "rate" },
  evenness: { name: "Evenness, DU low quarter", term: "DU", digits: 2 },
  spray_loss: { name: "Lost to spray and drift", term: "spray loss", digits: 0, unit: "%" },
  root_depth: { name: "Root depth", term: "root depth", quantity: "root_depth" },
  available: { name: "Water that the soil holds", term: "available water", digits: 0, unit: "%" },
  intake: { name: "Intake of the soil", term: "intake", quantity: "rate" },
  site_factor: { name: "Sun, wind and edges", term: "site factor", digits: 2, unit: "×" },
};

function source(of: Schemas["Source"]): string {
  switch (of.kind) {
    case "measured":
      return `measured ${dayMonth(of.date)}: ${of.test}`;
    case "entered":
      return `typed ${dayMonth(of.date)}`;
    case "handbook":
      return `handbook: ${of.table}`;
    case "assumed":
      return "assumed";
  }
}

function Sharpen({ by, site, zone }: { by: NonNullable<Fact["sharpen"]>; site: string; zone: number }) {
  const way = wayOf(by, site, String(zone));
  return <Link to={way.to}>{way.name}</Link>;
}

export function ZoneFacts({ site, zone }: { site: string; zone: number }) {
  const facts = useQuery(zoneFactsQuery(site, zone));
  const units = useUnits();
  if (facts.isPending) return <Loading what="the figures" />;
  if (facts.error) return <Failed message={facts.error.message} retry={() => facts.refetch()} />;
  const shown = (fact: Fact, x: number) => {
    const { quantity, digits = 2, unit } = FIGURES[fact.figure];
    if (quantity) return units.figure(quantity, x);
    return (unit === "%" ? x * 100 : x).toFixed(digits);
  };
  const unitOf = (fact: Fact) => {
    const { quantity, unit } = FIGURES[fact.figure];
    return quantity ? units.label(quantity) : (unit ?? "");
  };
  return (
    <ul className={classes.facts}>
      {facts.data.map((fact) => (
        <li key={fact.figure}>
          <strong>
            <Term name={FIGURES[fact.figure].term}>{FIGURES[fact.figure].name}</Term>
          </strong>
          <span className={classes.value}>
            {shown(fact, fact.value)} {unitOf(fact)}
          </span>
          <Range fact={fact} low={shown(fact, fact.low)} high={shown(fact, fact.high)} />
          <span className="quiet">{source(fact.source)}</span>
          <span>
            {fact.sharpen && (
              <>
                sharper by <Sharpen by={fact.sharpen} site={site} zone={zone} />
              </>
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** From the least to the greatest, the value a mark on it. */
function Range({ fact, low, high }: { fact: Fact; low: string; high: string }) {
  const wide = fact.high - fact.low;
  const at = wide > 0 ? ((fact.value - fact.low) / wide) * 100 : 50;
  return (
    <span className={classes.range} role="img" aria-label={`between ${low} and ${high}`}>
      <span>{low}</span>
      <svg viewBox="0 0 100 12" preserveAspectRatio="none" aria-hidden="true">
        <path d="M0 6H100" stroke="var(--edge)" strokeWidth="3" vectorEffect="non-scaling-stroke" />
        <path d={`M${at} 0V12`} stroke="var(--ink)" strokeWidth="3" vectorEffect="non-scaling-stroke" />
      </svg>
      <span>{high}</span>
    </span>
  );
}
