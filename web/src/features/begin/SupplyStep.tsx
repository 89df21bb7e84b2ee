// What water there is: a bucket and a watch.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api";
import { FigureField, useFigures } from "../forms/figures";
import { catalogueQuery } from "../site/queries";
import classes from "./Begin.module.css";
import { Step } from "./Step";

type Props = {
  number: number;
  of: number;
  onBack: (() => void) | undefined;
  problem: string | undefined;
  pending: boolean;
  flow: Schemas["Bucket"] | null | undefined;
  /** What is typed is kept: a reload loses nothing. */
  onKeep: (flow: Schemas["Bucket"]) => void;
  onTell: (flow: Schemas["Bucket"] | null) => void;
};

export function SupplyStep({ problem, pending, flow, onKeep, onTell, ...step }: Props) {
  const catalogue = useQuery(catalogueQuery);
  const figures = useFigures({ bucket_l: flow?.bucket_l, seconds: flow?.seconds });
  const [tried, setTried] = useState(false);
  const wrong = (name: string, range: string, quantity?: "bucket") =>
    tried && catalogue.data
      ? figures.problem(name, { range, required: true, ...(quantity ? { quantity } : {}) }, catalogue.data)
      : undefined;
  const [bucket_l, seconds] = [figures.si("bucket_l", "bucket"), figures.si("seconds")];
  // biome-ignore lint/correctness/useExhaustiveDependencies: kept when a figure changes
  useEffect(() => {
    if (bucket_l !== undefined && seconds !== undefined) onKeep({ bucket_l, seconds });
  }, [bucket_l, seconds]);
  const make = () => {
    setTried(true);
    if (bucket_l !== undefined && seconds !== undefined) onTell({ bucket_l, seconds });
  };
  return (
    <Step
      {...step}
      title="How much water is there?"
      hint="Open the tap that feeds the sprinklers fully, and time a bucket. No zone is planned that needs more."
      next={{ label: "Make this lawn", onClick: make, loading: pending }}
      onUnknown={() => onTell(null)}
    >
      <div className={classes.fields}>
        <FigureField
          figures={figures}
          name="bucket_l"
          label="The bucket holds"
          quantity="bucket"
          error={wrong("bucket_l", "bucket_l", "bucket")}
        />
        <FigureField
          figures={figures}
          name="seconds"
          label="It is full after"
          unit="seconds"
          error={problem ?? wrong("seconds", "bucket_s")}
        />
      </div>
    </Step>
  );
}
