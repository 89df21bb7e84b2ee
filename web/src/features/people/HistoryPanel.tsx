import { Button, Text } from "@mantine/core";
import { useInfiniteQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api";
import { clock, dayMonth, localDate, longDay, minutes, moment } from "../../time";
import { type Units, useUnits } from "../../units";
import { roleName } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import classes from "../site/SitePage.module.css";
import { lookWords } from "../soil/words";
import { FAULTS } from "../sprinklers/words";
import { PATCH_STATE } from "../stress/recoveryWords";
import { historyQuery } from "./queries";

type Event = Schemas["Event"];

const SAID: Record<string, string> = {
  confirmed: "ran",
  denied: "did not run",
  changed: "ran for another time",
};

const TAKEN_BACK: Record<string, string> = { ...SAID, hand: "was watered by hand", hose: "was watered by hose" };

const EDITED: Record<string, string> = {
  skip: "skips",
  lock: "locked",
  minutes: "set the minutes of",
  move: "moved the watering of",
  release: "left to the plan again",
};

/** Whose doing it is where nobody did it. */
const NOBODY: Record<string, string> = {
  published_by_rule: "The site’s rule",
  passes_missed: "The controller",
  devices_ended: "A new version of the program",
};

/** `token of Roof station`. */
const tokens = (devices: string[]) => `${devices.length === 1 ? "token" : "tokens"} of ${devices.join(", ")}`;

/** What became of a zone in a drought. */
const TURNED: Record<string, (zone: string) => string> = {
  dormant: (zone) => `let ${zone} go`,
  recovering: (zone) => `wakes ${zone}`,
  established: (zone) => `waters ${zone} as green turf`,
};

/** What somebody did, to be read after their name. */
function words(e: Event, units: Units, timeZone: string): string {
  switch (e.event) {
    case "site_changed":
      return "changed place, hours or supply";
    case "rules_changed":
      return "changed the local rules";
    case "tariffs_changed":
      return "changed what water costs";
    case "caps_changed":
      return "changed what may be used";
    case "meter_added":
      return `added the meter ${e.name}`;
    case "meter_changed":
      return `changed the meter ${e.name}`;
    case "meter_ended":
      return `took out the meter ${e.name} on ${dayMonth(e.last_day)}`;
    case "meter_read":
      return `read ${e.register} on the meter ${e.meter}, ${moment(e.at, timeZone)}`;
    case "meter_readings_imported":
      return `imported ${e.readings} meter readings`;
    case "regime_turned":
      return `${TURNED[e.regime]?.(e.zone) ?? `changed ${e.zone}`} from ${dayMonth(e.from)}${e.proposed ? ", as proposed" : ""}`;
    case "runs_imported":
      return `imported ${e.runs} runs${e.answered > 0 ? ` and answered ${e.answered} by file` : ""}`;
    case "minutes_imported":
      return `imported ${e.minutes} minutes of the meter ${e.meter}`;
    case "meter_reading_voided":
      return `took the reading ${e.register} of the meter ${e.meter} out, ${moment(e.at, timeZone)}`;
    case "zone_added":
      return `added the zone ${e.name}`;
    case "zone_changed":
      return `changed the zone ${e.name}`;
    case "zone_ended":
      return `ended the zone ${e.name} on ${dayMonth(e.last_day)}`;
    case "weather_imported":
      return `imported ${e.days} days of weather${e.forecast_days > 0 ? ` and ${e.forecast_days} of forecast` : ""}`;
    case "weather_typed":
      return e.days === 1
        ? `typed the weather of ${dayMonth(e.from)}`
        : `typed the weather of ${e.days} days, ${dayMonth(e.from)} to ${dayMonth(e.to)}`;
    case "weather_forgotten":
      return `took back what was typed of the weather of ${dayMonth(e.date)}`;
    case "device_added":
      return `made a token for the station ${e.name}`;
    case "device_revoked":
      return `revoked the token of the station ${e.name}`;
    case "devices_ended":
      return `ended the ${tokens(e.devices)}, made by ${e.maker}, who manages the lawn no more`;
    case "devices_taken_over":
      return `answers for the ${tokens(e.devices)} from now on, made by ${e.maker}`;
    case "gauge_read":
      return `read ${units.show("depth", e.rain_mm)} in the gauge for ${dayMonth(e.date)}`;
    case "rain_chosen":
      return e.counts === "automatic"
        ? `left the rain of ${dayMonth(e.date)} to the rule`
        : `chose the ${e.counts}'s rain for ${dayMonth(e.date)}`;
    case "feed_connected":
      return `subscribed to the weather service (${e.climate.replaceAll("-", " ")})`;
    case "feed_disconnected":
      return "ended the subscription to the weather service";
    case "clock_stepped":
      return `stepped the demo clock to ${dayMonth(e.to.slice(0, 10))}`;
    case "run_said":
      return `said that ${e.zone} ${SAID[e.answer] ?? e.answer} on ${dayMonth(e.date)}`;
    case "run_taken_back":
      return `took back that ${e.zone} ${TAKEN_BACK[e.answer] ?? e.answer} on ${dayMonth(e.date)}`;
    case "dry_day_set":
      return `keeps ${e.zone} dry on ${dayMonth(e.date)}`;
    case "day_edited":
      return `${EDITED[e.act] ?? "changed"} ${dayMonth(e.date)} of ${e.zone}`;
    case "edit_undone":
      return `undid a change of ${dayMonth(e.date)} of ${e.zone}`;
    case "edit_redone":
      return `did a change of ${dayMonth(e.date)} of ${e.zone} again`;
    case "published":
      return `published the week up to ${dayMonth(e.last_day)}`;
    case "published_by_rule":
      return `published the week up to ${dayMonth(e.last_day)}`;
    case "controller_replaced":
      return "said that the controller was replaced by another";
    case "controller_connected":
      return "connected the controller";
    case "passes_missed":
      return `ran ${e.passes === 0 ? "nothing" : `${e.passes} of ${e.planned} passes`} on ${e.zone}, ${dayMonth(e.date)}`;
    case "controller_disconnected":
      return "disconnected the controller";
    case "publication_withdrawn":
      return "withdrew the published week";
    case "publishes_each_morning":
      return e.each_morning ? "has the plan published each morning" : "no longer has the plan published each morning";
    case "hours_asked":
      return e.asks.kind === "keep_dry"
        ? `keeps ${e.zone} dry until ${moment(e.until, timeZone)}`
        : `has something watered in on ${e.zone} by ${moment(e.until, timeZone)}`;
    case "hours_lifted":
      return e.asks.kind === "keep_dry"
        ? `no longer keeps ${e.zone} dry for hours`
        : `no longer has something watered in on ${e.zone}`;
    case "dry_day_lifted":
      return `lets ${e.zone} be watered again on ${dayMonth(e.date)}`;
    case "wet_checked":
      return `did a wet check of ${e.zones === 1 ? "one zone" : `${e.zones} zones`}`;
    case "head_not_mended":
      return `took back that head ${e.head} of ${e.zone} was repaired (${FAULTS[e.fault]})`;
    case "run_added":
      return `watered ${e.zone} by ${e.source} for ${minutes(e.seconds)} on ${dayMonth(e.date)}`;
    case "cans_tested":
      return `tested the sprinklers of ${e.zone} with ${e.cans} cans`;
    case "quickly_tested":
      return `tested the rate of ${e.zone}'s sprinklers`;
    case "soil_tested":
      return `tested the soil of ${e.zone}: ${e.test}`;
    case "soil_test_standing":
      return e.standing === "void"
        ? `set a ${e.test} test of soil aside`
        : e.standing === "pinned"
          ? `pinned a ${e.test} test of soil`
          : `let a ${e.test} test of soil count by rule`;
    case "seen":
      return `saw on ${e.zone}, ${dayMonth(e.date)}: ${lookWords(e, units)}`;
    case "seen_undone":
      return `took back what was seen on ${e.zone}`;
    case "patch_noted":
      return `noted a patch of ${e.zone}, ${e.patch}: ${PATCH_STATE[e.state]}`;
    case "patch_looked_at":
      return `looked at ${e.patch} of ${e.zone}: ${PATCH_STATE[e.state]}`;
    case "patch_repaired":
      return e.repaired
        ? `said that ${e.patch} of ${e.zone} is repaired`
        : `said that ${e.patch} of ${e.zone} is open again`;
    case "patch_undone":
      return `took back the patch ${e.patch} of ${e.zone}`;
    case "stand_counted":
      return `counted seedlings on ${e.zone}, in ${e.frames} places`;
    case "count_undone":
      return `took back a count of seedlings on ${e.zone}`;
    case "sowing_kept":
      return `kept a plan for new grass on ${e.zone}, to be sown on ${longDay(e.sow)}`;
    case "sowing_forgotten":
      return `forgot the plan for new grass on ${e.zone}`;
    case "head_fault_noted":
      return `noted head ${e.head} of ${e.zone}: ${FAULTS[e.fault]}`;
    case "head_mended":
      return `repaired head ${e.head} of ${e.zone} (${FAULTS[e.fault]})`;
    case "can_test_standing":
      return e.standing === "void"
        ? "set a sprinkler test aside"
        : e.standing === "pinned"
          ? "pinned a sprinkler test"
          : "let the newest sprinkler test count";
    case "invited":
      return `invited ${e.name} as ${e.role}`;
    case "invitation_revoked":
      return `revoked the invitation of ${e.name}`;
    case "joined":
      return `joined as ${e.role}`;
    case "role_changed":
      return `made ${e.name} ${roleName(e.role as Schemas["Role"]).toLowerCase()}`;
    case "removed":
      return `removed ${e.name}`;
    case "left":
      return "left the site";
  }
}

export function HistoryPanel({ site, timeZone }: { site: string; timeZone: string }) {
  const history = useInfiniteQuery(historyQuery(site));
  const units = useUnits();
  if (history.isPending) return <Loading what="the history" />;
  if (history.error) return <Failed message={history.error.message} retry={() => history.refetch()} />;
  const entries = history.data.pages.flatMap((page) => page.entries);
  return (
    <section>
      <h2>Who did what</h2>
      {entries.length === 0 ? (
        <Text mt="sm">Nothing yet. What anybody changes or notes on this site is listed here.</Text>
      ) : (
        <table className={classes.table}>
          <thead>
            <tr>
              <th scope="col">When, by the site's clock</th>
              <th scope="col">Who and what</th>
            </tr>
          </thead>
          <tbody>
            {entries.map((entry) => (
              <tr key={entry.id}>
                <td>
                  {longDay(localDate(entry.site_now, timeZone))}, {clock(entry.site_now, timeZone)}
                </td>
                <td>
                  <strong>{entry.who ?? NOBODY[entry.what.event] ?? "Somebody who is gone"}</strong>{" "}
                  {words(entry.what, units, timeZone)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {history.hasNextPage && (
        <Button variant="outline" mt="md" loading={history.isFetchingNextPage} onClick={() => history.fetchNextPage()}>
          Older
        </Button>
      )}
    </section>
  );
}
