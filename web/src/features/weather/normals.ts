// Twelve months as people copy them from an atlas: rows of months, or rows of figures.
import { parse } from "../forms/figures";

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

/** The numbers of a line, and whether all that stands in it but a first name is one. */
function numbers(line: string): number[] | undefined {
  const separated = /[\t;]/.test(line) ? line.split(/[\t;]/) : line.trim().split(/,\s+|\s+|,(?=\S)/);
  const cells = separated.map((cell) => cell.trim()).filter((cell) => cell !== "");
  const read = cells.map((cell) => parse(cell.replace("−", "-")));
  const values = read[0] === undefined ? read.slice(1) : read;
  return values.some((value) => value === undefined) ? undefined : (values as number[]);
}

/** Twelve rows of low, high, rain and wet days, or four rows of twelve months; headings are passed over. What is neither is nothing. */
export function monthsOf(text: string): number[][] | undefined {
  const rows = text
    .split(/\r?\n/)
    .filter((line) => line.trim() !== "")
    .map(numbers)
    .filter((row): row is number[] => row !== undefined && row.length > 0);
  if (rows.length === 12 && rows.every((row) => row.length === 4)) return rows;
  if (rows.length === 4 && rows.every((row) => row.length === 12))
    return MONTHS.map((_, month) => rows.map((row) => row[month] ?? 0));
  return undefined;
}
