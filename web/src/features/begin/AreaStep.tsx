// How large: by tape, by paces, or known. What is told is worked out at once.
import { SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import { catalogueQuery } from "../site/queries";
import { OutlineFields } from "../sprinklers/ShapeFields";
import { lengthsOf, type ShapeName, shapeOf } from "../sprinklers/shapes";
import { draftQuery } from "./queries";

type Area = Schemas["AreaAnswer"];
type Way = "tape" | "paces" | "m2";
type Props = {
  site: string;
  draft: Schemas["ZoneDraft"];
  onChange: (area: Area) => void;
};

const WAYS = [
  { value: "tape", label: "Tape" },
  { value: "paces", label: "Paces" },
  { value: "m2", label: "I know it" },
];

const wayOf = (area: Area | null | undefined): Way =>
  area && "m2" in area ? "m2" : area && "paces" in area ? "paces" : "tape";

export function AreaStep({ site, draft, onChange }: Props) {
  const units = useUnits();
  const [way, setWay] = useState<Way>(wayOf(draft.area));
  const drafted = useQuery({
    ...draftQuery(site, { ...draft, name: draft.name.trim() || "Lawn" }),
    enabled: draft.area != null,
  });
  return (
    <>
      <SegmentedControl
        data={WAYS}
        value={way}
        onChange={(next) => setWay(next as Way)}
        aria-label="How it was measured"
        fullWidth
      />
      {way === "m2" ? (
        <Known area={draft.area} onTell={onChange} />
      ) : (
        <Outline key={way} way={way} area={draft.area} onTell={onChange} />
      )}
      {drafted.error ? (
        <p role="alert" style={{ color: "var(--clay)", margin: 0 }}>
          {drafted.error.message}
        </p>
      ) : (
        draft.area && drafted.data && <p style={{ margin: 0 }}>{units.show("area", drafted.data.zone.area_m2)}</p>
      )}
    </>
  );
}

type Told = { area: Area | null | undefined; onTell: (area: Area) => void };

function Known({ area, onTell }: Told) {
  const figures = useFigures({ m2: area && "m2" in area ? area.m2 : undefined });
  const m2 = figures.si("m2", "area");
  // biome-ignore lint/correctness/useExhaustiveDependencies: told when the figure changes
  useEffect(() => {
    if (m2 !== undefined) onTell({ m2 });
  }, [m2]);
  const catalogue = useQuery(catalogueQuery);
  const problem = catalogue.data && figures.problem("m2", { range: "area_m2", quantity: "area" }, catalogue.data);
  return <FigureField figures={figures} name="m2" label="Area" quantity="area" error={problem} />;
}

/** A shape by its lengths, of tape or of paces. */
function Outline({ way, area, onTell }: Told & { way: "tape" | "paces" }) {
  const told = area && (way === "tape" && "tape" in area ? area.tape : "paces" in area ? area.paces : undefined);
  const [shape, setShape] = useState<ShapeName>(told?.shape ?? "rectangle");
  const [sides, setSides] = useState(told?.shape === "polygon" ? told.sides_m.length : 4);
  const figures = useFigures(told ? lengths(told) : {});
  const catalogue = useQuery(catalogueQuery);
  const quantity = way === "tape" ? ("length" as const) : undefined;
  const typed = lengthsOf(shape, sides).map((name) => figures.si(name, quantity));
  const whole = typed.every((length) => length !== undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: told when a length changes
  useEffect(() => {
    if (!whole) return;
    const drawn = shapeOf(shape, sides, (name) => figures.si(name, quantity) ?? 0);
    onTell(way === "tape" ? { tape: drawn } : { paces: drawn });
  }, [JSON.stringify(typed), shape]);
  return (
    <OutlineFields
      shape={shape}
      onShape={setShape}
      sides={sides}
      onSides={setSides}
      measured={(key, label) => (
        <FigureField
          key={key}
          figures={figures}
          name={`shape.${key}`}
          label={label}
          {...(quantity ? { quantity } : { unit: "paces" })}
          error={
            catalogue.data &&
            figures.problem(`shape.${key}`, { range: "side_m", ...(quantity ? { quantity } : {}) }, catalogue.data)
          }
        />
      )}
    />
  );
}

/** A shape's lengths as a form names them. */
function lengths(shape: Schemas["Shape"]): Record<string, number> {
  const told: Record<string, number> = {};
  for (const [key, value] of Object.entries(shape)) {
    if (typeof value === "number") told[`shape.${key}`] = value;
    if (Array.isArray(value)) for (const [i, x] of value.entries()) told[`shape.${key}[${i}]`] = x;
  }
  return told;
}
