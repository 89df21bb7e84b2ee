// Step one: the zone's outline, its heads, the cans, how long. By a pattern, as it was last time, or place by place.
import { Button, NativeSelect, SegmentedControl, Stack, Text } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useRef, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { newKey } from "../../key";
import type { Quantity } from "../../quantities";
import { dayMonth, sentenceCase } from "../../time";
import { useErrors } from "../forms/errors";
import { FigureField, useFigures } from "../forms/figures";
import { Refused } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import { CAN_FIELDS, CONTAINERS, type Container, containerOf, usualContainer } from "./container";
import { type Draft, VERSION } from "./draft";
import { HeadsRan, idleHeads } from "./HeadsRan";
import { PlanDrawing } from "./PlanDrawing";
import { PlanEditor } from "./PlanEditor";
import { type CanTest, type Layout, layoutQuery, type TestView, useResult, withCans } from "./queries";
import { ShapeFields } from "./ShapeFields";
import classes from "./Sprinklers.module.css";
import { fillShape, fillSides, type Heads, lengthsOf, type ShapeName, shapeOf, usualShape } from "./shapes";

type Props = {
  site: string;
  zone: number;
  name: string;
  area: number;
  /** Tests of the site so far, newest first. */
  tests: TestView[];
  onBegin: (draft: Draft) => void;
};

export function LayOut({ site, zone, name, area, tests, onBegin }: Props) {
  const queries = useQueryClient();
  const catalogue = useQuery(catalogueQuery);
  const compute = useResult(site, zone);
  const earlier = tests.find((t) => t.zone === zone && t.test.method === "cans" && !t.voided);
  const before = earlier?.test.method === "cans" ? earlier.test : undefined;
  const [again, setAgain] = useState(true);
  const [shape, setShape] = useState<ShapeName>("rectangle");
  const [sides, setSides] = useState(4);
  const last = tests.map((t) => t.test).find((t) => t.method === "cans")?.container;
  const figures = useFigures({ ...usualShape(area), ...usualContainer(last), minutes: 15 });
  const [errors, setErrors] = useErrors(figures);
  const [heads, setHeads] = useState<Heads>("corners");
  const [edited, setEdited] = useState<Layout>();
  const [ran, setRan] = useState<string[]>();
  const [container, setContainer] = useState<Container["kind"]>(last?.kind ?? "straight");
  const [wind, setWind] = useState("");
  const [refused, setRefused] = useState<Error | null>(null);

  const si = (name: string, quantity?: Quantity) => figures.si(name, quantity) ?? 0;
  const wanted = (): Schemas["Wanted"] => ({
    shape: shapeOf(shape, sides, si),
    heads,
    columns: si("columns"),
    rows: si("rows"),
  });
  const reuse = before !== undefined && again;
  const [asked] = useDebouncedValue(wanted(), 250);
  const drawn = useQuery({ ...layoutQuery(site, asked), enabled: !reuse, placeholderData: keepPreviousData });
  const layout: Layout | undefined =
    edited ?? (reuse ? { ...emptied(before), area_m2: 0 } : drawn.error ? undefined : drawn.data);
  // While measures do not meet, the last plan that did stays, faded: nothing jumps away from under a thumb.
  const drawnLast = useRef<Layout>(undefined);
  if (layout) drawnLast.current = layout;
  const shown = layout ?? drawnLast.current;

  /** A new measure makes the plan anew. */
  const remake = () => {
    setEdited(undefined);
    setRan(undefined);
    setErrors({});
    setRefused(null);
  };
  /** What does not hold, by field: by the server's own ranges. */
  const find = (): Record<string, string | undefined> => {
    const range = (name: string, rule: string, quantity?: Quantity, required = true) =>
      catalogue.data &&
      figures.problem(name, { range: rule, required, ...(quantity ? { quantity } : {}) }, catalogue.data);
    const whole = (name: string) => {
      const n = figures.si(name) ?? 0;
      return Number.isInteger(n) && n >= 1 && n <= 20 ? undefined : "A whole number from 1 to 20.";
    };
    const found: Record<string, string | undefined> = {
      minutes: range("minutes", "minutes"),
      pressure_kpa: range("pressure_kpa", "pressure_kpa", "pressure", false),
      ...Object.fromEntries(
        CAN_FIELDS[container].map(([name, , quantity]) => [
          name,
          range(name, name.replace("container.", ""), quantity),
        ]),
      ),
    };
    if (reuse) return found;
    found.columns = whole("columns");
    found.rows = whole("rows");
    for (const name of lengthsOf(shape, sides)) found[name] = range(name, "side_m", "length");
    return found;
  };

  /** What the server said stands at its field where the form has that field. */
  const refuse = (error: unknown) => {
    const field = error instanceof ApiFailure ? error.problem?.field : undefined;
    if (error instanceof ApiFailure && field && (field in find() || field.startsWith("shape."))) {
      setErrors({ [field]: sentenceCase(error.message) });
    } else setRefused(error as Error);
  };

  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setRefused(null);
    const found = find();
    setErrors(found);
    if (Object.values(found).some(Boolean)) return;
    try {
      const plan = edited ?? (reuse ? layout : await queries.fetchQuery(layoutQuery(site, wanted())));
      if (!plan) return;
      const idle = idleHeads(plan.heads, ran);
      const test: CanTest = {
        corners: plan.corners,
        heads: plan.heads,
        ...(idle.length > 0 ? { idle_heads: idle } : {}),
        container: containerOf(container, si),
        minutes: si("minutes"),
        ...(wind === "" ? {} : { wind_m_s: Number(wind) }),
        ...(figures.si("pressure_kpa") === undefined ? {} : { pressure_kpa: si("pressure_kpa", "pressure") }),
        cans: plan.cans,
      };
      // The server says now what does not hold, not after sixteen readings. Without a connection the test begins all the same.
      await compute.mutateAsync(withCans(test)).catch((error) => {
        if (error instanceof ApiFailure && error.status === 0) return;
        throw error;
      });
      onBegin({ version: VERSION, key: newKey(), next: test.cans[0]?.number ?? 1, finished: false, test });
    } catch (error) {
      refuse(error);
    }
  };

  const previewError = !reuse && drawn.error ? drawn.error : null;
  const previewField = previewError instanceof ApiFailure ? previewError.problem?.field : undefined;
  /** Whether what was refused is a can, a head or a corner of the plan: then it is said there. */
  const onPlan = refused instanceof ApiFailure && /^(cans|heads|corners|idle_heads)/.test(refused.problem?.field ?? "");
  const figure = (name: string, label: string, quantity?: Quantity, unit?: string) => (
    <FigureField
      key={name}
      figures={figures}
      name={name}
      label={label}
      quantity={quantity}
      unit={unit}
      error={errors[name] ?? (name === previewField ? sentenceCase(previewError?.message ?? "") : undefined)}
      onType={() => {
        if (name.startsWith("shape.") || name === "columns" || name === "rows") remake();
      }}
    />
  );

  return (
    <main className={classes.broad}>
      <h1>{name}: test with cans</h1>
      <Text className="quiet">
        Set out cans in even rows, run the zone alone, read each can. The more cans the surer: 24 are a good test.
      </Text>
      <form onSubmit={submit} noValidate className={classes.layOut}>
        <Stack gap="sm">
          {before && earlier && (
            <NativeSelect
              label="Plan of the zone"
              value={again ? "again" : "new"}
              data={[
                { value: "again", label: `as on ${dayMonth(earlier.date)}: ${before.cans.length} cans` },
                { value: "new", label: "a new one" },
              ]}
              onChange={(e) => {
                remake();
                setAgain(e.currentTarget.value === "again");
              }}
            />
          )}
          {!reuse && (
            <ShapeFields
              shape={shape}
              onShape={(next) => {
                remake();
                setShape(next);
                fillShape(figures, area, shape, next);
              }}
              sides={sides}
              onSides={(n) => {
                remake();
                setSides(n);
                fillSides(figures, area, n);
              }}
              heads={heads}
              onHeads={(next) => {
                remake();
                setHeads(next);
              }}
              figure={figure}
            />
          )}
          {previewError && !previewField && <Refused error={previewError} />}
        </Stack>
        <div className={classes.plan}>
          {/* The plan's room is the same before it is here and whatever its shape: what is below must not move away from under a thumb. */}
          {!shown && (
            <Stack gap="sm">
              <div className={classes.planRoom} />
              <div style={{ height: "6.2rem" }} />
            </Stack>
          )}
          {shown && (
            <Stack gap="sm">
              <PlanEditor layout={shown} zoneArea={reuse ? undefined : area} onChange={setEdited} name={name}>
                {(tap) => (
                  <div className={classes.planRoom} style={{ opacity: layout ? 1 : 0.4 }}>
                    <PlanDrawing
                      test={{ ...shown, container: { kind: "straight", deep_mm: 100 } }}
                      label={`Plan of ${name}: ${shown.cans.length} cans, ${shown.heads.length} heads`}
                      tall="100%"
                      numbered
                      {...(tap && layout ? { onTap: tap } : {})}
                    />
                  </div>
                )}
              </PlanEditor>
              {onPlan && <Refused error={refused} />}
              {shown.heads.length > 1 && <HeadsRan heads={shown.heads} ran={ran} onRan={setRan} />}
            </Stack>
          )}
        </div>
        <Stack gap="sm">
          <SegmentedControl
            aria-label="What catches the water"
            value={container}
            onChange={(kind) => setContainer(kind as Container["kind"])}
            fullWidth
            data={CONTAINERS}
          />
          <div className={classes.fields}>
            {CAN_FIELDS[container].map(([name, label, quantity, unit]) => figure(name, label, quantity, unit))}
            {figure("minutes", "Minutes")}
            <NativeSelect
              label="Wind"
              value={wind}
              data={[
                { value: "", label: "not noted" },
                { value: "0.5", label: "still: smoke rises" },
                { value: "1.5", label: "light: felt on the face" },
                { value: "3", label: "leaves move" },
                { value: "5", label: "twigs move" },
              ]}
              onChange={(e) => setWind(e.currentTarget.value)}
            />
            {figure("pressure_kpa", "Pressure (if read)", "pressure")}
          </div>
          {!onPlan && <Refused error={refused} />}
          <Button type="submit" size="md" loading={compute.isPending}>
            Begin
          </Button>
        </Stack>
      </form>
    </main>
  );
}

/** A plan with its cans unread. */
function emptied(test: CanTest): Omit<Layout, "area_m2"> {
  return {
    corners: test.corners,
    heads: test.heads ?? [],
    cans: test.cans.map((c) => ({ number: c.number, place: c.place, fate: "unread" as const })),
  };
}
