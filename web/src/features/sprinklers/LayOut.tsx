// Step one: the zone's outline, its heads, the cans, how long. By a pattern, as it was last time, or place by place.
import { Button, Chip, Group, NativeSelect, NumberInput, SegmentedControl, Stack, Text } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useRef, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { newKey } from "../../key";
import { dayMonth, sentenceCase } from "../../time";
import { type Quantity, useUnits } from "../../units";
import { Refused } from "../shell/States";
import { problem } from "../site/fields";
import { catalogueQuery } from "../site/queries";
import type { Draft } from "./draft";
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
type Typed = number | string;

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

export function LayOut({ site, zone, name, area, tests, onBegin }: Props) {
  const units = useUnits();
  const queries = useQueryClient();
  const catalogue = useQuery(catalogueQuery);
  const reckon = useReckon(site, zone);
  const earlier = tests.find((t) => t.zone === zone && t.test.method === "cans" && !t.voided);
  const before = earlier?.test.method === "cans" ? earlier.test : undefined;
  const [again, setAgain] = useState(true);
  const [shape, setShape] = useState<ShapeName>("rectangle");
  const side = Math.round(Number(units.toField("length", Math.sqrt(area))));
  const [measures, setMeasures] = useState<Record<string, Typed>>({
    width_m: side,
    length_m: side,
    diameter_m: side,
    notch_width_m: Math.round(side / 2),
    notch_length_m: Math.round(side / 2),
  });
  const [sides, setSides] = useState<Typed[]>([side, side, side, side]);
  const [diagonals, setDiagonals] = useState<Typed[]>([Math.round(side * Math.SQRT2)]);
  const [columns, setColumns] = useState<Typed>(4);
  const [rows, setRows] = useState<Typed>(4);
  const [heads, setHeads] = useState<Heads>("corners");
  const [edited, setEdited] = useState<Layout>();
  const [ran, setRan] = useState<string[]>();
  // The cans of the last test, of whichever zone, are most likely the cans of this one.
  const last = tests.map((t) => t.test).find((t) => t.method === "cans")?.container;
  const [container, setContainer] = useState<Container["kind"]>(last?.kind ?? "volume");
  const known = (quantity: Quantity, si: number) => Number(units.toField(quantity, si));
  const [throat, setThroat] = useState<Typed>(
    last?.kind === "volume" ? known("throat", last.throat_cm2) : Number(units.figure("throat", 100)),
  );
  const [mouth, setMouth] = useState<Typed>(
    last?.kind === "round" ? known("depth", last.mouth_mm) : Number(units.figure("depth", 113)),
  );
  const [holds, setHolds] = useState<Typed>(last && last.kind !== "straight" ? last.holds_ml : 250);
  const [deep, setDeep] = useState<Typed>(
    last?.kind === "straight" ? known("depth", last.deep_mm) : Number(units.figure("depth", 100)),
  );
  const [minutes, setMinutes] = useState<Typed>(15);
  const [wind, setWind] = useState("");
  const [pressure, setPressure] = useState<Typed>("");
  const [errors, setErrors] = useState<Record<string, string | undefined>>({});
  const [refused, setRefused] = useState<Error | null>(null);

  const si = (quantity: Quantity, typed: Typed) => units.toSi(quantity, Number(typed));
  const wanted = (): Schemas["Wanted"] => {
    const m = (key: string) => si("length", measures[key] ?? "");
    const list = (typed: Typed[]) => typed.map((t) => si("length", t));
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
      polygon: { shape: "polygon", sides_m: list(sides), diagonals_m: list(diagonals) },
    };
    return { shape: shapes[shape], heads, columns: Number(columns), rows: Number(rows) };
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
    const long = Math.max(1, Math.round(side * 2));
    if (next === "strip") {
      setMeasures({ ...measures, length_m: long, width_m: Math.max(1, Math.round((side * side) / long)) });
      setColumns(8);
      setRows(2);
    }
    if (shape === "strip") {
      setMeasures({ ...measures, length_m: side, width_m: side });
      setColumns(4);
      setRows(4);
    }
  };

  /** What does not hold, by field: by the server's own ranges. */
  const find = (): Record<string, string | undefined> => {
    const range = (typed: Typed, rule: string, quantity?: Quantity, required = true) =>
      catalogue.data &&
      problem(String(typed), { name: rule, required, ...(quantity ? { quantity } : {}) }, catalogue.data, units);
    const whole = (x: Typed) =>
      Number.isInteger(Number(x)) && Number(x) >= 1 && Number(x) <= 20 ? undefined : "A whole number from 1 to 20.";
    const found: Record<string, string | undefined> = {
      minutes: range(minutes, "minutes"),
      pressure_kpa: range(pressure, "pressure_kpa", "pressure", false),
      "container.throat_cm2": container === "volume" ? range(throat, "throat_cm2", "throat") : undefined,
      "container.mouth_mm": container === "round" ? range(mouth, "mouth_mm", "depth") : undefined,
      "container.holds_ml": container === "straight" ? undefined : range(holds, "holds_ml"),
      "container.deep_mm": container === "straight" ? range(deep, "deep_mm", "depth") : undefined,
    };
    if (reuse) return found;
    found.columns = whole(columns);
    found.rows = whole(rows);
    const fields = shape === "polygon" ? [] : FIELDS[shape];
    for (const [key] of fields) found[`shape.${key}`] = range(measures[key] ?? "", "side_m", "length");
    if (shape === "polygon") {
      sides.forEach((s, i) => {
        found[`shape.sides_m[${i}]`] = range(s, "side_m", "length");
      });
      diagonals.forEach((d, i) => {
        found[`shape.diagonals_m[${i}]`] = range(d, "side_m", "length");
      });
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
            ? { kind: "straight", deep_mm: si("depth", deep) }
            : container === "round"
              ? { kind: "round", mouth_mm: si("depth", mouth), holds_ml: Number(holds) }
              : { kind: "volume", throat_cm2: si("throat", throat), holds_ml: Number(holds) },
        minutes: Number(minutes),
        ...(wind === "" ? {} : { wind_m_s: Number(wind) }),
        ...(pressure === "" ? {} : { pressure_kpa: si("pressure", pressure) }),
        cans: plan.cans,
      };
      // The server says now what does not hold, not after sixteen readings. Without a connection the test begins all the same.
      await reckon.mutateAsync(withCans(test)).catch((error) => {
        if (error instanceof ApiFailure && error.status === 0) return;
        throw error;
      });
      onBegin({ key: newKey(), next: test.cans[0]?.number ?? 1, finished: false, test });
    } catch (error) {
      refuse(error);
    }
  };

  const previewError = !reuse && drawn.error ? drawn.error : null;
  const previewField = previewError instanceof ApiFailure ? previewError.problem?.field : undefined;
  /** Whether what was refused is a can, a head or a corner of the plan: then it is said there. */
  const onPlan = refused instanceof ApiFailure && /^(cans|heads|corners|idle_heads)/.test(refused.problem?.field ?? "");
  const figure = (label: string, value: Typed, set: (v: Typed) => void, field: string, unit?: string) => (
    <NumberInput
      key={field}
      label={unit ? `${label}, ${unit}` : label}
      value={value}
      error={errors[field] ?? (field === previewField ? sentenceCase(previewError?.message ?? "") : undefined)}
      onChange={(v) => {
        if (field.startsWith("shape.") || field === "columns" || field === "rows") remake();
        set(v);
      }}
      hideControls
    />
  );
  const length = units.label("length");
  const measured = (key: string, label: string) =>
    figure(label, measures[key] ?? "", (v) => setMeasures((m) => ({ ...m, [key]: v })), `shape.${key}`, length);
  const nth = (list: Typed[], set: (l: Typed[]) => void, i: number) => (v: Typed) =>
    set(list.map((old, j) => (j === i ? v : old)));

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
                  sides={sides.length}
                  onSides={(n) => {
                    remake();
                    const fit = (list: Typed[], to: number, fill: Typed) =>
                      Array.from({ length: to }, (_, i) => list[i] ?? fill);
                    setSides(fit(sides, n, side));
                    setDiagonals(fit(diagonals, n - 3, Math.round(side * Math.SQRT2)));
                  }}
                  side={(i) =>
                    figure(`Side ${i + 1}`, sides[i] ?? "", nth(sides, setSides, i), `shape.sides_m[${i}]`, length)
                  }
                  diagonal={(i) =>
                    figure(
                      `Corner 1 to ${i + 3}`,
                      diagonals[i] ?? "",
                      nth(diagonals, setDiagonals, i),
                      `shape.diagonals_m[${i}]`,
                      length,
                    )
                  }
                />
              ) : (
                <div className={classes.fields}>{FIELDS[shape].map(([key, label]) => measured(key, label))}</div>
              )}
              <div className={classes.fields}>
                {figure("Cans in a row", columns, setColumns, "columns")}
                {figure("Rows", rows, setRows, "rows")}
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
          {shown && (
            <Stack gap="sm">
              <PlanEditor layout={shown} zoneArea={reuse ? undefined : area} onChange={setEdited} name={name}>
                {(tap) => (
                  <div style={{ opacity: layout ? 1 : 0.4 }}>
                    <PlanDrawing
                      test={{ ...shown, container: { kind: "straight", deep_mm: 100 } }}
                      label={`Plan of ${name}: ${shown.cans.length} cans, ${shown.heads.length} heads`}
                      tall="46vh"
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
              { value: "volume", label: "mL, mouth's area" },
              { value: "round", label: "mL, round" },
              { value: "straight", label: "Straight sides" },
            ]}
          />
          <div className={classes.fields}>
            {container === "volume" &&
              figure("Mouth", throat, setThroat, "container.throat_cm2", units.label("throat"))}
            {container === "round" &&
              figure("Mouth across", mouth, setMouth, "container.mouth_mm", units.label("depth"))}
            {container !== "straight" && figure("Holds, mL", holds, setHolds, "container.holds_ml")}
            {container === "straight" &&
              figure("Can's depth", deep, setDeep, "container.deep_mm", units.label("depth"))}
            {figure("Minutes", minutes, setMinutes, "minutes")}
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
            {figure("Pressure (if read)", pressure, setPressure, "pressure_kpa", units.label("pressure"))}
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
