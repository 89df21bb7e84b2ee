// Numbers as people type them: "8,181", "8.181,5", "1 1/2", "½", "12 mm".

/** What a comma means in the reader's own numbers. */
export type Comma = "thousands" | "decimal";

/** A typed number. `also` is the other figure that it may mean, where a comma leaves that open. */
export type ReadNumber = { value: number; also?: number; unit?: string };

/** What a comma means where a language is written. */
export function commaOf(language: string | undefined): Comma {
  const parts = new Intl.NumberFormat(language).formatToParts(1.5);
  return parts.find((part) => part.type === "decimal")?.value === "," ? "decimal" : "thousands";
}

/** The reader's own. */
const comma = (): Comma => commaOf(typeof navigator === "undefined" ? "en" : navigator.language);

const FRACTIONS: Record<string, string> = {
  "½": "1/2",
  "¼": "1/4",
  "¾": "3/4",
  "⅓": "1/3",
  "⅔": "2/3",
  "⅛": "1/8",
  "⅜": "3/8",
  "⅝": "5/8",
  "⅞": "7/8",
};

const PLAIN = /^(\d+\.?\d*|\.\d+)$/;
const THOUSANDS = /^\d{1,3}(,\d{3})+(\.\d*)?$/;
const POINTS_FOR_THOUSANDS = /^\d{1,3}(\.\d{3})+(,\d*)?$/;
const ONE_COMMA = /^\d*,\d+$/;

/** A number without sign, unit or spaces between thousands. */
function unsigned(text: string, means: Comma): Pick<ReadNumber, "value" | "also"> | undefined {
  const whole = /^(?:(\d+)\s+)?(\d+)\/(\d+)$/.exec(text);
  if (whole) {
    const [, before, above, below] = whole;
    return Number(below) === 0 ? undefined : { value: Number(before ?? 0) + Number(above) / Number(below) };
  }
  const digits = text.replace(/[\s'’]/g, "");
  if (PLAIN.test(digits)) return { value: Number(digits) };
  const asDecimal = Number(digits.replaceAll(".", "").replace(",", "."));
  const asThousands = Number(digits.replaceAll(",", ""));
  if (ONE_COMMA.test(digits)) {
    const full = THOUSANDS.test(digits);
    if (/^0?,/.test(digits)) return { value: asDecimal };
    if (means === "thousands") return full ? { value: asThousands } : { value: asDecimal, also: asThousands };
    return full ? { value: asDecimal, also: asThousands } : { value: asDecimal };
  }
  if (THOUSANDS.test(digits)) return { value: asThousands };
  if (POINTS_FOR_THOUSANDS.test(digits)) return { value: asDecimal };
  return undefined;
}

/** A typed number with the unit written behind it, if one is; nothing where it is no number. */
export function readNumber(text: string, means: Comma = comma()): ReadNumber | undefined {
  const spelled = text.trim().replace(/[½¼¾⅓⅔⅛⅜⅝⅞]/g, (sign) => ` ${FRACTIONS[sign]}`);
  const [, sign, digits, unit] = /^([-+−]?)\s*([\d.,\s/'’]*\d[.,]?)\s*(\D.*)?$/.exec(spelled.trim()) ?? [];
  if (digits === undefined) return undefined;
  const read = unsigned(digits.trim(), means);
  if (!read) return undefined;
  const signed = (x: number) => (sign === "-" || sign === "−" ? -x : x);
  return {
    value: signed(read.value),
    ...(read.also === undefined ? {} : { also: signed(read.also) }),
    ...(unit === undefined ? {} : { unit: unit.trim() }),
  };
}

/** A typed number without a unit: where a comma leaves it open, as the reader writes numbers. */
export function parse(text: string): number | undefined {
  const read = readNumber(text);
  return read?.unit === undefined ? read?.value : undefined;
}

/** A number as it is printed: with thousands in commas. */
export const print = (x: number, digits = 4) =>
  new Intl.NumberFormat("en", {
    maximumSignificantDigits: Math.max(digits, 1 + Math.floor(Math.log10(Math.abs(x) || 1))),
  })
    .format(x)
    .replace("-", "−");

/** Units that people write for one another. */
const SPELLED: Record<string, string> = {
  sqft: "ft²",
  sqm: "m²",
  m2: "m²",
  m3: "m³",
  ft2: "ft²",
  in2: "in²",
  cm2: "cm²",
  '"': "in",
  "”": "in",
  "″": "in",
  inch: "in",
  inches: "in",
  feet: "ft",
  foot: "ft",
  "'": "ft",
  litres: "l",
  liters: "l",
  gallons: "gal",
  c: "°c",
  f: "°f",
  metres: "m",
  minutes: "min",
  seconds: "s",
  sec: "s",
  percent: "%",
};

const plainUnit = (unit: string) => {
  const bare = unit.toLowerCase().replace(/[\s.]/g, "");
  return SPELLED[bare] ?? bare;
};

/** Whether a unit behind a number is that of its field. */
export const sameUnit = (written: string, of: string | undefined) =>
  of !== undefined && plainUnit(written) === plainUnit(of);
