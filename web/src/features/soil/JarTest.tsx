// A jar over its day: shaken, then read after a minute, two hours and a day, by the site's clock.
import { Button, Text } from "@mantine/core";
import { clock, whenAt } from "../../time";
import type { FormProps } from "./form";
import { nextOf } from "./kept";
import { NotedFields } from "./Noted";

const LAYERS = [
  { name: "sand_to_mm", label: "Top of the sand, after 1 minute" },
  { name: "silt_to_mm", label: "Top of the silt, after 2 hours" },
  { name: "clay_to_mm", label: "Top of the clay, after 24 hours" },
] as const;

export function JarTest({ view, catalogue, noted, note, problem }: FormProps) {
  const next = nextOf(noted);
  const shaken = typeof noted.shaken === "string" ? noted.shaken : undefined;
  const layered = noted.layered === true;
  const fields = LAYERS.map((f) => ({ ...f, range: "jar_mm", quantity: "depth" as const }));
  // Of a jar that settles only what is due is asked.
  const asked = layered
    ? fields
    : fields.filter((f) => typeof noted[f.name] === "number" || (next?.next === f.name && next.due <= view.now));
  return (
    <>
      <Text size="sm">
        Soil from root depth, without stones and roots: a third of a straight jar. Fill it up with water and a drop of
        dish soap, shake it for three minutes, and set it down. Heights are read from the jar’s bottom.
      </Text>
      {!shaken && !layered && (
        <>
          <Button size="md" onClick={() => note({ shaken: view.now })}>
            It stands now
          </Button>
          <Button variant="outline" onClick={() => note({ layered: true })}>
            It has settled: read the layers
          </Button>
        </>
      )}
      {next && (
        <Text role="status">
          Shaken {whenAt(next.shaken, view.today, view.site.time_zone)}.{" "}
          {next.due <= view.now
            ? "Read it now."
            : `The next reading is due ${whenAt(next.due, view.today, view.site.time_zone)}; it is ${clock(view.now, view.site.time_zone)}. Morning reminds you.`}
        </Text>
      )}
      {asked.length > 0 && (
        <NotedFields fields={asked} catalogue={catalogue} noted={noted} note={note} problem={problem} />
      )}
      {next && next.due > view.now && !layered && (
        <Button variant="subtle" onClick={() => note({ layered: true })}>
          Read it sooner: the layers are plain to see
        </Button>
      )}
    </>
  );
}
