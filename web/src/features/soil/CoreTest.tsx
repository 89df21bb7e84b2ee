// Cores pulled out of the turf: how deep the roots go, and what lies below.
import { Button, Group, NativeSelect, Text } from "@mantine/core";
import { useState } from "react";
import { useErrors } from "../forms/errors";
import { FigureField, useFigures } from "../forms/figures";
import classes from "../sprinklers/Sprinklers.module.css";
import type { FormProps } from "./form";
import type { Layer } from "./queries";

export function CoreTest({ catalogue, noted, note, problem }: FormProps) {
  const roots = (noted.roots_mm as number[] | undefined) ?? [];
  const layers = (noted.layers as Layer[] | undefined) ?? [];
  const figures = useFigures({});
  const [errors, setErrors] = useErrors(figures);
  const [lies, setLies] = useState("sand");
  const take = (name: string, range: string): number | undefined => {
    const wrong = figures.problem(name, { range, quantity: "root_depth", required: true }, catalogue);
    setErrors({ [name]: wrong });
    return wrong ? undefined : figures.si(name, "root_depth");
  };
  const addCore = () => {
    const depth = take("core", "root_depth_mm");
    if (depth === undefined) return;
    note({ roots_mm: [...roots, depth] });
    figures.fill({ core: null });
  };
  const addLayer = () => {
    const from = take("layer", "layer_mm");
    if (from === undefined) return;
    const layer: Layer = {
      from_mm: from,
      lies: lies === "ledge" ? "ledge" : { soil: lies as (typeof catalogue.soils)[number]["key"] },
    };
    note({ layers: [...layers, layer].sort((a, b) => a.from_mm - b.from_mm) });
    figures.fill({ layer: null });
  };
  const layerProblem = layers.map((_, i) => problem(`layers[${i}].from_mm`)).find((p) => p);
  return (
    <>
      <Text size="sm">
        Pull a core at a usual place, lay it on the grass, and measure how deep most of the roots go. Two or three cores
        are surer than one.
      </Text>
      <div className={classes.byFigures} style={{ gridTemplateColumns: "1fr auto" }}>
        <FigureField
          figures={figures}
          name="core"
          label="Roots of this core"
          quantity="root_depth"
          error={errors.core}
        />
        <Button onClick={addCore}>Add the core</Button>
      </div>
      {roots.length > 0 && (
        <Group>
          <Text>{roots.length === 1 ? "One core" : `${roots.length} cores`} measured.</Text>
          <Button variant="subtle" onClick={() => note({ roots_mm: roots.slice(0, -1) })}>
            Take the last away
          </Button>
        </Group>
      )}
      <fieldset>
        <legend>Another soil below? Where it begins</legend>
        <div className={classes.byFigures}>
          <FigureField
            figures={figures}
            name="layer"
            label="From"
            quantity="root_depth"
            error={errors.layer ?? layerProblem}
          />
          <NativeSelect
            label="It is"
            value={lies}
            onChange={(e) => setLies(e.currentTarget.value)}
            data={[
              ...catalogue.soils.map((s) => ({ value: s.key, label: s.name })),
              { value: "ledge", label: "Ledge or rubble" },
            ]}
          />
          <Button variant="outline" onClick={addLayer}>
            Add
          </Button>
        </div>
        {layers.length > 0 && (
          <Button variant="subtle" onClick={() => note({ layers: layers.slice(0, -1) })}>
            Take the lowest layer away
          </Button>
        )}
      </fieldset>
    </>
  );
}
