// The plan of a zone, to tap where something was seen.
import { Button, Text } from "@mantine/core";
import { type MouseEvent, useState } from "react";
import type { Schemas } from "../../api";
import { useUnits } from "../../units";
import classes from "./Soil.module.css";

type Point = Schemas["Point"];
type Props = { corners: Point[]; place: Point | undefined; onPick: (place: Point | undefined) => void; label: string };

export function PlacePick({ corners, place, onPick, label }: Props) {
  const units = useUnits();
  const [open, setOpen] = useState(false);
  if (!open)
    return (
      <Button variant="subtle" size="xs" onClick={() => setOpen(true)}>
        Only at one place
      </Button>
    );
  const xs = corners.map((c) => c.x_m);
  const ys = corners.map((c) => c.y_m);
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [wide, high] = [Math.max(...xs) - left, Math.max(...ys) - top];
  const edge = Math.max(wide, high) * 0.06;
  const pick = (event: MouseEvent<SVGSVGElement>) => {
    const svg = event.currentTarget;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM()?.inverse());
    const within = (x: number, from: number, span: number) =>
      Math.round(Math.min(from + span, Math.max(from, x)) * 10) / 10;
    onPick({ x_m: within(at.x, left, wide), y_m: within(at.y, top, high) });
  };
  return (
    <div>
      <Text size="sm">
        {place
          ? `At ${units.figure("length", place.x_m)}, ${units.show("length", place.y_m)} of its plan.`
          : "Tap the place on its plan."}
      </Text>
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the place is an extra; without it the note holds for the zone */}
      <svg
        role="img"
        aria-label={label}
        className={classes.plan}
        viewBox={`${left - edge} ${top - edge} ${wide + 2 * edge} ${high + 2 * edge}`}
        onClick={pick}
      >
        <polygon
          points={corners.map((c) => `${c.x_m},${c.y_m}`).join(" ")}
          fill="var(--panel)"
          stroke="var(--ink)"
          strokeWidth={edge / 6}
        />
        {place && <circle cx={place.x_m} cy={place.y_m} r={edge / 1.4} fill="var(--clay)" />}
      </svg>
      <Button
        variant="subtle"
        size="xs"
        onClick={() => {
          onPick(undefined);
          setOpen(false);
        }}
      >
        All of the zone
      </Button>
    </div>
  );
}
