// The form of a zone's outline by a tape, the rows of cans in it, and where its heads stand.
import { NativeSelect, SegmentedControl, Text } from "@mantine/core";
import type { ReactNode } from "react";
import type { Quantity } from "../../quantities";
import classes from "./Sprinklers.module.css";
import { FIELDS, type Heads, SHAPES, type ShapeName } from "./shapes";

type OutlineProps = {
  shape: ShapeName;
  onShape: (shape: ShapeName) => void;
  sides: number;
  onSides: (sides: number) => void;
  /** A field of a length of the shape. */
  measured: (key: string, label: string) => ReactNode;
};

/** The outline of a zone: its shape, and what is measured of it. */
export function OutlineFields({ shape, onShape, sides, onSides, measured }: OutlineProps) {
  return (
    <>
      <SegmentedControl
        aria-label="Shape of the zone"
        value={shape}
        onChange={(next) => onShape(next as ShapeName)}
        data={SHAPES}
        fullWidth
      />
      {shape === "polygon" ? (
        <Polygon
          sides={sides}
          onSides={onSides}
          side={(i) => measured(`sides_m[${i}]`, `Side ${i + 1}`)}
          diagonal={(i) => measured(`diagonals_m[${i}]`, `Corner 1 to ${i + 3}`)}
        />
      ) : (
        <div className={classes.fields}>{FIELDS[shape].map(([key, label]) => measured(key, label))}</div>
      )}
    </>
  );
}

type Props = Omit<OutlineProps, "measured"> & {
  heads: Heads;
  onHeads: (heads: Heads) => void;
  figure: (name: string, label: string, quantity?: Quantity) => ReactNode;
};

export function ShapeFields({ heads, onHeads, figure, ...outline }: Props) {
  const { shape } = outline;
  return (
    <>
      <OutlineFields {...outline} measured={(key, label) => figure(`shape.${key}`, label, "length")} />
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
        onChange={(e) => onHeads(e.currentTarget.value as Heads)}
      />
    </>
  );
}

type PolygonProps = {
  sides: number;
  onSides: (n: number) => void;
  side: (i: number) => ReactNode;
  diagonal: (i: number) => ReactNode;
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
