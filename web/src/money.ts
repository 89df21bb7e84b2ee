// Amounts of money; what water costs is told by the plan.
/** An amount in a currency. */
export const amount = (value: number, currency: string | null | undefined): string =>
  currency ? new Intl.NumberFormat("en", { style: "currency", currency }).format(value) : value.toFixed(2);

/** An amount of which cents say nothing: of a season to come. */
export const roundAmount = (value: number, currency: string | null | undefined): string =>
  currency
    ? new Intl.NumberFormat("en", { style: "currency", currency, maximumFractionDigits: 0 }).format(value)
    : value.toFixed(0);
