import type { Catalogue, SiteView, Zone } from "../../api";

/** What a test's form is given. */
export type FormProps = {
  view: SiteView;
  zone: Zone;
  catalogue: Catalogue;
  noted: Record<string, unknown>;
  /** Notes what is typed; undefined takes it away. */
  note: (noted: Record<string, unknown>) => void;
  /** What the server says is wrong, by field. */
  problem: (field: string) => string | undefined;
};
