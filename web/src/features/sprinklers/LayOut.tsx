// Step one: the zone's outline, its heads, the cans, how long. By a pattern, as it was last time, or place by place.
import { Button, Chip, Group, NativeSelect, SegmentedControl, Stack, Text } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useRef, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { newKey } from "../../key";
import type { Quantity } from "../../quantities";
import { dayMonth, sentenceCase } from "../../time";
import { FigureField, rounded, useFigures } from "../forms/figures";
import { Refused } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import { type Draft, VERSION } from "./draft";
import { PlanDrawing } from "./PlanDrawing";
import { PlanEditor } from "./PlanEditor";
import { type CanTest, type Layout, layoutQuery, type TestView, useReckon, withCans } from "./queries";
import classes from "./Sprinklers.module.css";

type Props = {
  site: string;
  zone: number;
  name: string;
  area: number;
  /** Tests of the site so far, newest first. */
  tests: TestView[];
  onBegin: (draft: Draft) => void;
};

const SHAPES = [
  { value: "rectangle", label: "Rectangle" },
  { value: "ell", label: "L" },
  { value: "strip", label: "Strip" },
  { value: "circle", label: "Circle" },
  { value: "polygon", label: "By sides" },
];
type ShapeName = Schemas["Shape"]["shape"];
type Heads = Schemas["HeadPattern"];
type Container = Schemas["Container"];

/** Fields of each shape besides a polygon's sides: name in the API, label. */
const FIELDS: Record<Exclude<ShapeName, "polygon">, [string, string][]> = {
  rectangle: [
    ["width_m", "Width"],
    ["length_m", "Length"],
  ],
  strip: [
    ["length_m", "Length"],
    ["width_m", "Width"],
  ],
  ell: [
    ["width_m", "Width"],
    ["length_m", "Length"],
    ["notch_width_m", "Missing corner's width"],
    ["notch_length_m", "Missing corner's length"],
  ],
  circle: [["diameter_m", "Diameter"]],
};

/** Fields of each kind of can: name in the API, label, quantity, unit. */
const CAN_FIELDS: Record<Container["kind"], [string, string, Quantity?, string?][]> = {
  straight: [["container.deep_mm", "Can's depth", "depth"]],
  volume: [
    ["container.throat_cm2", "Mouth", "throat"],
    ["container.holds_ml", "Holds", undefined, "mL"],
  ],
  round: [
    ["container.mouth_mm", "Mouth across", "depth"],
    ["container.holds_ml", "Holds", undefined, "mL"],
  ],
};

export function LayOut({ site, zone, name, area, tests, onBegin }: Props) {
  const queries = useQueryClient();
  const catalogue = useQuery(catalogueQuery);
  const reckon = useReckon(site, zone);
  const earlier = tests.find((t) => t.zone === zone && t.test.method === "cans" && !t.voided);
  const before = earlier?.test.method === "cans" ? earlier.test : undefined;
  const [again, setAgain] = useState(true);
  const [shape, setShape] = useState<ShapeName>("rectangle");
  // A square of the zone's area, in round figures.
  const side = rounded("length", Math.sqrt(area));
  const half = rounded("length", Math.sqrt(area) / 2);
  const across = rounded("length", Math.sqrt(2 * area));
  const [sides, setSides] = useState(4);
  // The cans of the last test, of whichever zone, are most likely the cans of this one.
  const last = tests.map((t) => t.test).find((t) => t.method === "cans")?.container;
  const figures = useFigures({
    "shape.width_m": side,
    "shape.length_m": side,
    "shape.diameter_m": side,
    "shape.notch_width_m": half,
    "shape.notch_length_m": half,
    ...Object.fromEntries([0, 1, 2, 3].map((i) => [`shape.sides_m[${i}]`, side])),
    "shape.diagonals_m[0]": across,
    columns: 4,
    rows: 4,
    minutes: 15,
    "container.throat_cm2": last?.kind === "volume" ? last.throat_cm2 : { metric: "100", us: "15.5" },
    "container.mouth_mm": last?.kind === "round" ? last.mouth_mm : { metric: "113", us: "4.5" },
    "container.holds_ml": last && last.kind !== "straight" ? last.holds_ml : 250,
    "container.deep_mm": last?.kind === "straight" ? last.deep_mm : { metric: "100", us: "4" },
  });
  const [heads, setHeads] = useState<Heads>("corners");
  const [edited, setEdited] = useState<Layout>();
  const [ran, setRan] = useState<string[]>();
  const [container, setContainer] = useState<Container["kind"]>(last?.kind ?? "straight");
  const [wind, setWind] = useState("");
  const [errors, setErrors] = useState<Record<string, string | undefined>>({});
  const [refused, setRefused] = useState<Error | null>(null);

  const si = (name: string, quantity?: Quantity) => figures.si(name, quantity) ?? 0;
  const wanted = (): Schemas["Wanted"] => {
    const m = (key: string) => si(`shape.${key}`, "length");
    const list = (key: string, count: number) =>
      Array.from({ length: count }, (_, i) => si(`shape.${key}[${i}]`, "length"));
    const shapes: Record<ShapeName, Schemas["Shape"]> = {
      rectangle: { shape: "rectangle", width_m: m("width_m"), length_m: m("length_m") },
      strip: { shape: "strip", width_m: m("width_m"), length_m: m("length_m") },
      ell: {
        shape: "ell",
        width_m: m("width_m"),
        length_m: m("length_m"),
        notch_width_m: m("notch_width_m"),
        notch_length_m: m("notch_length_m"),
      },
      circle: { shape: "circle", diameter_m: m("diameter_m") },
      polygon: { shape: "polygon", sides_m: list("sides_m", sides), diagonals_m: list("diagonals_m", sides - 3) },
    };
    return { shape: shapes[shape], heads, columns: si("columns"), rows: si("rows") };
  };
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
  const chooseShape = (next: string) => {
    remake();
    setShape(next as ShapeName);
    const long = Math.sqrt(area) * 2;
    if (next === "strip") {
      figures.fill({
        "shape.length_m": rounded("length", long),
        "shape.width_m": rounded("length", area / long),
        columns: 8,
        rows: 2,
      });
    }
    if (shape === "strip") figures.fill({ "shape.length_m": side, "shape.width_m": side, columns: 4, rows: 4 });
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
    const side = (name: string) => range(name, "side_m", "length");
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
    const fields = shape === "polygon" ? [] : FIELDS[shape];
    for (const [key] of fields) found[`shape.${key}`] = side(`shape.${key}`);
    if (shape === "polygon") {
      for (let i = 0; i < sides; i++) found[`shape.sides_m[${i}]`] = side(`shape.sides_m[${i}]`);
      for (let i = 0; i < sides - 3; i++) found[`shape.diagonals_m[${i}]`] = side(`shape.diagonals_m[${i}]`);
    }
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
      const idle = ran ? plan.heads.map((_, i) => i + 1).filter((n) => !ran.includes(String(n))) : [];
      const test: CanTest = {
        corners: plan.corners,
        heads: plan.heads,
        ...(idle.length > 0 ? { idle_heads: idle } : {}),
        container:
          container === "straight"
            ? { kind: "straight", deep_mm: si("container.deep_mm", "depth") }
            : container === "round"
              ? {
                  kind: "round",
                  mouth_mm: si("container.mouth_mm", "depth"),
                  holds_ml: si("container.holds_ml"),
                }
              : {
                  kind: "volume",
                  throat_cm2: si("container.throat_cm2", "throat"),
                  holds_ml: si("container.holds_ml"),
                },
        minutes: si("minutes"),
        ...(wind === "" ? {} : { wind_m_s: Number(wind) }),
        ...(figures.si("pressure_kpa") === undefined ? {} : { pressure_kpa: si("pressure_kpa", "pressure") }),
        cans: plan.cans,
      };
      // The server says now what does not hold, not after sixteen readings. Without a connection the test begins all the same.
      await reckon.mutateAsync(withCans(test)).catch((error) => {
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
  const measured = (key: string, label: string) => figure(`shape.${key}`, label, "length");

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
            <>
              <SegmentedControl
                aria-label="Shape of the zone"
                value={shape}
                onChange={chooseShape}
                data={SHAPES}
                fullWidth
              />
              {shape === "polygon" ? (
                <Polygon
                  sides={sides}
                  onSides={(n) => {
                    remake();
                    setSides(n);
                    // What was measured stays; new sides begin as a square's.
                    const begin = (key: string, count: number, fill: typeof side) =>
                      Array.from({ length: count }, (_, i) => `shape.${key}[${i}]`)
                        .filter((name) => figures.text(name, "length") === "")
                        .map((name) => [name, fill]);
                    figures.fill(
                      Object.fromEntries([...begin("sides_m", n, side), ...begin("diagonals_m", n - 3, across)]),
                    );
                  }}
                  side={(i) => measured(`sides_m[${i}]`, `Side ${i + 1}`)}
                  diagonal={(i) => measured(`diagonals_m[${i}]`, `Corner 1 to ${i + 3}`)}
                />
              ) : (
                <div className={classes.fields}>{FIELDS[shape].map(([key, label]) => measured(key, label))}</div>
              )}
              <div className={classes.fields}>
                {figure("columns", "Cans in a row")}
                {figure("rows", "Rows")}
              </div>
              <NativeSelect
                label="Heads"
                value={heads}
                data={[
                  { value: "corners", label: shape === "circle" ? "four around the edge" : "in the corners" },
                  {
                    value: "corners_and_sides",
                    label: shape === "circle" ? "eight around the edge" : "in the corners and midway along the sides",
                  },
                  { value: "middle", label: "one in the middle" },
                  { value: "elsewhere", label: "elsewhere: placed by tap" },
                ]}
                onChange={(e) => {
                  remake();
                  setHeads(e.currentTarget.value as Heads);
                }}
              />
            </>
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
              {shown.heads.length > 1 && (
                <details>
                  <summary>
                    {ran && ran.length < shown.heads.length
                      ? `${ran.length} of ${shown.heads.length} heads ran`
                      : `All ${shown.heads.length} heads ran`}
                  </summary>
                  <Text size="sm" className="quiet">
                    Heads that ran:
                  </Text>
                  <Chip.Group
                    multiple
                    value={ran ?? shown.heads.map((_, i) => String(i + 1))}
                    onChange={(chosen) => setRan(chosen)}
                  >
                    <Group gap="xs">
                      {shown.heads.map((h, i) => (
                        <Chip key={`${h.x_m} ${h.y_m}`} value={String(i + 1)}>
                          {i + 1}
                        </Chip>
                      ))}
                    </Group>
                  </Chip.Group>
                </details>
              )}
            </Stack>
          )}
        </div>
        <Stack gap="sm">
          <SegmentedControl
            aria-label="What catches the water"
            value={container}
            onChange={(kind) => setContainer(kind as Container["kind"])}
            fullWidth
            data={[
              { value: "straight", label: "Straight sides, a ruler" },
              { value: "volume", label: "mL, mouth's area" },
              { value: "round", label: "mL, round mouth" },
            ]}
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
          <Button type="submit" size="md" loading={reckon.isPending}>
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

type PolygonProps = {
  sides: number;
  onSides: (n: number) => void;
  side: (i: number) => React.ReactNode;
  diagonal: (i: number) => React.ReactNode;
};

/** Straight sides, by triangles from the first corner. */
function Polygon({ sides, onSides, side, diagonal }: PolygonProps) {
  return (
    <>
      <Text size="sm" className="quiet">
        Stand at a corner from which you see all the others. Measure the sides round to it, then from it to each corner
        across.
      </Text>
      <NativeSelect
        label="Sides"
        value={String(sides)}
        data={Array.from({ length: 10 }, (_, i) => String(i + 3))}
        onChange={(e) => onSides(Number(e.currentTarget.value))}
      />
      <div className={classes.fields}>{Array.from({ length: sides }, (_, i) => side(i))}</div>
      {sides > 3 && <div className={classes.fields}>{Array.from({ length: sides - 3 }, (_, i) => diagonal(i))}</div>}
    </>
  );
}
