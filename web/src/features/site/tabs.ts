/** The parts of the Site view, by name in its address. */
export const TABS = ["zones", "place", "rules", "weather", "forecasts", "people", "history", "files"] as const;
export type Tab = (typeof TABS)[number];
