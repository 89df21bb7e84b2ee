// The stretches of days that the book is opened at.
import { addDays, dayMonth, monthName } from "../../time";

export type Span = { key: string; label: string; from: string; to: string };

/** The first day of a month some months before that of a day. */
function firstOfMonth(date: string, back: number): string {
  const d = new Date(`${date.slice(0, 7)}-01T12:00:00Z`);
  d.setUTCMonth(d.getUTCMonth() - back);
  return d.toISOString().slice(0, 10);
}

/** The months among the stretches: short enough to be told day by day. */
export const months = (today: string): Span[] => spans(today).filter((s) => s.key.length === 7);

/** Years and months that can be opened, the present ones first. Days to come are not in the book: it ends yesterday. */
export function spans(today: string): Span[] {
  const yesterday = addDays(today, -1);
  const year = Number(yesterday.slice(0, 4));
  const years = [year, year - 1, year - 2].map((y) => ({
    key: String(y),
    label: y === year ? `${y} to ${dayMonth(yesterday)}` : String(y),
    from: `${y}-01-01`,
    to: `${y}-12-31`,
  }));
  const months = Array.from({ length: 18 }, (_, back) => {
    const from = firstOfMonth(yesterday, back);
    const to = addDays(firstOfMonth(addDays(from, 40), 0), -1);
    return { key: from.slice(0, 7), label: `${monthName(from)} ${from.slice(0, 4)}`, from, to };
  });
  const twelve = { key: "12", label: "The last twelve months", from: firstOfMonth(yesterday, 11), to: yesterday };
  return [...years.slice(0, 1), twelve, ...months, ...years.slice(1)];
}
