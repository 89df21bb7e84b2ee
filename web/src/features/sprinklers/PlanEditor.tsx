// Heads and cans moved by tap on the plan, or by figures for those who do not tap.
import { Button, NumberInput, SegmentedControl, Text } from "@mantine/core";
import { type ReactNode, useState } from "react";
import { useUnits } from "../../units";
import type { Layout } from "./queries";
import classes from "./Sprinklers.module.css";

type Props = {
  layout: Layout;
  /** The zone's own area, to be compared, m². */
  zoneArea: number | undefined;
  name: string;
  onChange: (layout: Layout) => void;
  /** The drawing; taps only while places are being changed. */
  children: (tap: ((x_m: number, y_m: number) => void) | undefined) => ReactNode;
};

type Mode = "can" | "head" | "away";
type Place = { x_m: number; y_m: number };

const cm = (x: number) => Math.round(x * 100) / 100;
const far = (a: Place, b: Place) => Math.hypot(a.x_m - b.x_m, a.y_m - b.y_m);

/** The layout with a can or a head more, or without what is nearest. */
function changed(layout: Layout, mode: Mode, place: Place): Layout {
  if (mode === "head") return { ...layout, heads: [...layout.heads, place] };
  if (mode === "can") {
    return { ...layout, cans: [...layout.cans, { number: layout.cans.length + 1, place, fate: "unread" }] };
  }
  const things = [
    ...layout.cans.map((c) => ({ far: far(c.place, place), can: c.number, head: -1 })),
    ...layout.heads.map((h, i) => ({ far: far(h, place), can: -1, head: i })),
  ];
  if (things.length === 0) return layout;
  const nearest = things.reduce((a, b) => (b.far < a.far ? b : a));
  return {
    ...layout,
    cans: layout.cans.filter((c) => c.number !== nearest.can).map((c, i) => ({ ...c, number: i + 1 })),
    heads: layout.heads.filter((_, i) => i !== nearest.head),
  };
}

export function PlanEditor({ layout, zoneArea, name, onChange, children }: Props) {
  const units = useUnits();
  const [open, setOpen] = useState(false);
  const [mode, setMode] = useState<Mode>("can");
  const [x, setX] = useState<number | string>("");
  const [y, setY] = useState<number | string>("");
  const at = (x_m: number, y_m: number) => onChange(changed(layout, mode, { x_m: cm(x_m), y_m: cm(y_m) }));
  const typed = x !== "" && y !== "";
  return (
    <>
      {children(open ? at : undefined)}
      <Text size="sm" className="quiet" role="status">
        {layout.cans.length} cans, {layout.heads.length} heads
        {zoneArea !== undefined &&
          layout.area_m2 > 0 &&
          `; ${units.show("area", layout.area_m2)} drawn, ${units.show("area", zoneArea)} in the books`}
      </Text>
      <details onToggle={(e) => setOpen(e.currentTarget.open)}>
        <summary>Place cans and heads by tap</summary>
        <SegmentedControl
          aria-label={`What a tap on the plan of ${name} does`}
          value={mode}
          onChange={(m) => setMode(m as Mode)}
          fullWidth
          data={[
            { value: "can", label: "Adds a can" },
            { value: "head", label: "Adds a head" },
            { value: "away", label: "Takes away" },
          ]}
        />
        <div className={classes.byFigures}>
          <NumberInput label={`From the left, ${units.label("length")}`} value={x} onChange={setX} hideControls />
          <NumberInput label={`From below, ${units.label("length")}`} value={y} onChange={setY} hideControls />
          <Button
            variant="outline"
            disabled={!typed}
            onClick={() => at(units.toSi("length", Number(x)), units.toSi("length", Number(y)))}
          >
            {mode === "away" ? "Take away" : "Add there"}
          </Button>
        </div>
        <Button
          variant="subtle"
          size="xs"
          onClick={() => onChange({ ...layout, cans: [], heads: mode === "head" ? [] : layout.heads })}
        >
          Take all cans{mode === "head" ? " and heads" : ""} away
        </Button>
      </details>
    </>
  );
}
