// A chart of the book: what it is about as its heading, and its figures as a table.
import type { ReactNode } from "react";
import type { Quantity } from "../../quantities";
import { useUnits } from "../../units";
import classes from "./Book.module.css";

/** The legend names the bars in the order in which they stand. */
export const IN_ORDER = { itemSorter: null } as const;

// Keys have nothing to find in a picture: its figures are in the table.
export const AXES = { tickLine: "y", gridAxis: "y", h: 220, barChartProps: { accessibilityLayer: false } } as const;

/** A figure as a chart draws it: in the reader's unit, rounded as it is read. */
export function useDrawn(quantity: Quantity) {
  const units = useUnits();
  return (si: number) => Number(units.toField(quantity, si));
}

/** A chart with what it is about as its heading, and its figures behind a fold that print opens. */
export function Figure({
  title,
  note,
  head,
  rows,
  children,
}: {
  title: string;
  note: string;
  head: string[];
  rows: string[][];
  children: ReactNode;
}) {
  return (
    <figure className={classes.figure}>
      <figcaption>
        <h2>{title}</h2>
        <p className="quiet">{note}</p>
      </figcaption>
      {/* What it shows is in the table below it. */}
      <div aria-hidden="true">{children}</div>
      <details>
        <summary>{title}, as a table</summary>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
        <section className={classes.scroll} tabIndex={0} aria-label={`${title}, as a table`}>
          <table className={classes.table}>
            <thead>
              <tr>
                {head.map((h, i) => (
                  <th key={h} scope="col" className={i > 0 ? classes.number : ""}>
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map(([name, ...cells]) => (
                <tr key={name}>
                  <th scope="row">{name}</th>
                  {cells.map((cell, i) => (
                    <td key={head[i + 1]} className={classes.number}>
                      {cell}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      </details>
    </figure>
  );
}
