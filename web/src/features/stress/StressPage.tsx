// Heat and drought: which zones fall asleep, sleep or wake, until when they are safe, and who decided what.
import { Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { Failed, failure, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import { HeatAhead } from "./HeatAhead";
import { stressQuery } from "./queries";
import classes from "./Stress.module.css";
import { inOrder, pct } from "./words";
import { ZoneDormancy } from "./ZoneDormancy";

export function StressPage() {
  const { site } = useParams({ from: "/site/$site" });
  const view = useQuery(siteQuery(site));
  const stress = useQuery(stressQuery(site));
  const error = failure(view, stress);
  if (error) return <Failed message={error.message} retry={() => stress.refetch()} />;
  if (!view.data || !stress.data) return <Loading what="heat and drought" />;
  const { zones, today, rules } = stress.data;
  const count = (regime: string) => zones.filter((z) => z.regime === regime).length;
  const asleep = count("dormant");
  const waking = count("recovering");
  const proposed = zones.filter((z) => z.proposes).length;
  return (
    <main className={classes.page}>
      <h1>Heat and drought</h1>
      <Text>
        {asleep === 0 && waking === 0 ? "Every zone is kept green." : ""}
        {asleep > 0 ? `${asleep === 1 ? "One zone is" : `${asleep} zones are`} let go. ` : ""}
        {waking > 0 ? `${waking === 1 ? "One zone wakes" : `${waking} zones wake`}. ` : ""}
        {proposed > 0 ? ` ${proposed === 1 ? "One asks" : `${proposed} ask`} for a decision.` : ""}
      </Text>
      <Text className="quiet">
        Decide and keep to it: turf that goes in and out of sleep wears out its reserves. Nothing changes by itself.
      </Text>
      <p>
        <Link to="/site/$site/stress/decide" params={{ site }}>
          Keep green, or let go?
        </Link>
        {" · "}
        <Link to="/site/$site/stress/share" params={{ site }}>
          Too little water: who gets what there is
        </Link>
        {" · "}
        <Link to="/site/$site/stress/recovery" params={{ site }}>
          Recovery and repair
        </Link>
      </p>
      <HeatAhead site={site} stress={stress.data} />
      <h2 className={classes.ledgers}>Each zone</h2>
      <Text className="quiet">
        Curves: the water that each zone had left in the last 60 days, full above, empty below; dashed:{" "}
        {pct(rules.dry_share)} % gone; blue: deeply wetted; shaded: let go.
      </Text>
      <ul className={classes.zones}>
        {inOrder(zones).map((zone) => (
          <ZoneDormancy
            key={zone.zone}
            site={site}
            zone={zone}
            rules={rules}
            today={today}
            timeZone={view.data.site.time_zone}
          />
        ))}
      </ul>
      <div className={classes.cautions}>
        <Text>
          Brown turf that is asleep has firm white crowns and holds when tugged. Local watering rules decide who may
          water at all. In the heat work early: shade, water, no work alone at noon.
        </Text>
      </div>
    </main>
  );
}
