// Twelve months as people copy them from an atlas: rows of months, or rows of figures.
import { parse } from "../../numbers";

export const MONTHS = [
  "January",
  "February",
  "March",
  "April",
  "May",
  "June",
  "July",
  "August",
  "September",
  "October",
  "November",
  "December",
] as const;

export const COLUMNS = ["low_c", "high_c", "rain_mm", "wet_days"] as const;
export type Column = (typeof COLUMNS)[number];

/** A line: what stands before its numbers, and they. */
type Row = { label: string; values: number[] };

/** Twelve months of low, high, rain and wet days, with the units that the table names. */
export type Table = { months: number[][]; temperature?: "c" | "f"; rain?: "mm" | "cm" | "in" };

/** A line as a row; nothing where something between its numbers is none. What stands in brackets is the same in another unit, or a note. */
function rowOf(line: string): Row | undefined {
  const bare = line.replace(/\([^)]*\)/g, " ").replaceAll("−", "-");
  const separated = /[\t;]/.test(bare) ? bare.split(/[\t;]/) : bare.trim().split(/,\s+|\s+|,(?=\S)/);
  const cells = separated.map((cell) => cell.trim()).filter((cell) => cell !== "");
  const read = cells.map((cell) => parse(cell));
  const first = read.findIndex((value) => value !== undefined);
  if (first < 0) return undefined;
  const values = read.slice(first);
  if (values.some((value) => value === undefined)) return undefined;
  const label = line.slice(0, line.indexOf(cells[first] ?? "")).trim();
  return { label, values: values as number[] };
}

/** Which figure a label or a heading names. Records and extremes of the month are none of ours. */
function columnOf(label: string): Column | undefined {
  const text = label.toLowerCase();
  if (/record|extreme|highest|lowest/.test(text)) return undefined;
  if (/day/.test(text) && /rain|precip|wet/.test(text) && !/daily/.test(text)) return "wet_days";
  if (/wet/.test(text)) return "wet_days";
  if (/rain|precip/.test(text)) return "rain_mm";
  // "Mean maximum" is the hottest of a month, "mean daily maximum" the mean of its days.
  if (/mean (max|min)/.test(text)) return undefined;
  if (/high|max/.test(text)) return "high_c";
  return /low|min/.test(text) ? "low_c" : undefined;
}

const YEAR = 13;

/** Rows by their labels, each figure by the first that names it. */
function byLabels(rows: Row[]): number[][] | undefined {
  const named = COLUMNS.map((column) =>
    rows.find(({ label, values }) => columnOf(label) === column && values.length >= 12 && values.length <= YEAR),
  );
  if (named.some((row) => row === undefined)) return undefined;
  return MONTHS.map((_, month) => named.map((row) => row?.values[month] ?? 0));
}

/** Lows before highs, however they came. */
const lowsFirst = (months: number[][]) =>
  months.every(([first, second]) => (first ?? 0) > (second ?? 0))
    ? months.map(([high, low, ...rest]) => [low ?? 0, high ?? 0, ...rest])
    : months;

/** The order of four columns by a heading, where it names each of them. */
function orderOf(lines: string[]): number[] | undefined {
  for (const line of lines) {
    const cells = line.split(/[\t;]|,\s*|\s{2,}|\s(?=low|high|rain|precip|wet|max|min)/i).map(columnOf);
    const found = cells.filter((column): column is Column => column !== undefined);
    if (found.length === 4 && new Set(found).size === 4) return COLUMNS.map((column) => found.indexOf(column));
  }
  return undefined;
}

/** The unit that a table names first for its temperatures, and for its rain. */
function unitsOf(text: string): Pick<Table, "temperature" | "rain"> {
  const degrees = /°\s?([CF])/i.exec(text)?.[1]?.toLowerCase();
  const rain = /\b(mm|cm|inches|inch|in)\b/i.exec(text.replace(/≥[^)\n]*/g, ""))?.[1]?.toLowerCase();
  return {
    ...(degrees === "c" || degrees === "f" ? { temperature: degrees } : {}),
    ...(rain === undefined ? {} : { rain: rain === "mm" || rain === "cm" ? rain : ("in" as const) }),
  };
}

/** A table of twelve months: rows with names, in any order, among others; or twelve rows of four figures, or four rows of twelve, the lows first or the highs. A figure of the year at
 * the end is left out. What is none of these is nothing. */
export function tableOf(text: string): Table | undefined {
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== "");
  const rows = lines.map(rowOf).filter((row): row is Row => row !== undefined);
  const units = unitsOf(text);
  const labelled = byLabels(rows);
  if (labelled) return { months: labelled, ...units };
  const values = rows.map((row) => row.values);
  if (values.length === 12 && values.every((row) => row.length === 4)) {
    const order = orderOf(lines.filter((line) => rowOf(line) === undefined));
    return { months: order ? values.map((row) => order.map((at) => row[at] ?? 0)) : lowsFirst(values), ...units };
  }
  if (values.length === 4 && values.every((row) => row.length === 12 || row.length === YEAR))
    return { months: lowsFirst(MONTHS.map((_, month) => values.map((row) => row[month] ?? 0))), ...units };
  return undefined;
}
