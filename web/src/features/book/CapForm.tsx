// What may be used, as its manager types it: so much in a month or a year, or less than in a base year.
import { Button, Group, NativeSelect, Stack, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ApiFailure, type SiteView } from "../../api";
import { dated } from "../../time";
import { useUnits } from "../../units";
import { useErrors } from "../forms/errors";
import { FigureField, useFigures } from "../forms/figures";
import { Refused } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import classes from "./Book.module.css";
import { type Cap, useSaveCaps } from "./queries";

type Kind = "month" | "year" | "cut";

const KINDS: { value: Kind; label: string }[] = [
  { value: "month", label: "So much a month" },
  { value: "year", label: "So much a year" },
  { value: "cut", label: "Less than in the same month of a base year" },
];

type Props = { site: string; view: SiteView; onDone: () => void };

export function CapForm({ site, view, onDone }: Props) {
  const units = useUnits();
  const catalogue = useQuery(catalogueQuery);
  const year = Number(view.today.slice(0, 4));
  const [name, setName] = useState("");
  const [from, setFrom] = useState(`${year}-01-01`);
  const [to, setTo] = useState("");
  const [kind, setKind] = useState<Kind>("month");
  const [base, setBase] = useState(String(year - 1));
  const figures = useFigures({});
  const [errors, setErrors] = useErrors(figures);
  const save = useSaveCaps(site, () => {
    notifications.show({ message: "Saved." });
    onDone();
  });
  const kept = view.caps;
  const says = (cap: Cap) =>
    cap.says.kind === "volume"
      ? `${units.show("volume", cap.says.cap_m3 * 1000)} a ${cap.says.per}`
      : `${cap.says.cut_pct} % less than in ${cap.says.base_year}`;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!catalogue.data) return;
    const found: Record<string, string> = {};
    if (name.trim() === "") found.name = "Give it a name.";
    const problem =
      kind === "cut"
        ? figures.problem("cut_pct", { range: "cut_pct", required: true }, catalogue.data)
        : figures.problem("cap_l", { required: true, quantity: "volume" }, catalogue.data);
    if (problem) found[kind === "cut" ? "cut_pct" : "cap_l"] = problem;
    const range = catalogue.data.ranges.find((r) => r.name === "cap_m3");
    const typed = figures.si("cap_l", "volume");
    if (kind !== "cut" && !problem && range && typed !== undefined) {
      const [least, most] = [1000 * range.min, 1000 * range.max];
      if (typed < least || typed > most)
        found.cap_l = `Between ${units.show("volume", least)} and ${units.show("volume", most)}.`;
    }
    if (kind === "cut" && !/^\d{4}$/.test(base.trim())) found.base_year = "A year of four digits.";
    setErrors(found);
    if (Object.keys(found).length > 0) return;
    const cap: Cap = {
      name: name.trim(),
      from,
      ...(to ? { to } : {}),
      says:
        kind === "cut"
          ? { kind: "cut", cut_pct: figures.si("cut_pct") ?? 0, base_year: Number(base) }
          : { kind: "volume", cap_m3: (figures.si("cap_l", "volume") ?? 0) / 1000, per: kind },
    };
    save.mutate({ version: view.version, caps: [...kept, cap] });
  };
  const refused = save.error instanceof ApiFailure ? save.error.problem : undefined;
  // The server names the cap too: here it is the one that is typed.
  const at = refused?.field?.replace(/^caps\[\d+\]\.(says\.)?/, "").replace("cap_m3", "cap_l");
  const error = (field: string) => errors[field] ?? (at === field ? refused?.detail : undefined);
  const placed = ["name", "from", "to", "cap_l", "cut_pct", "base_year"].includes(at ?? "");
  return (
    <form onSubmit={submit} aria-label="What may be used" noValidate>
      <Stack gap="sm">
        {kept.length > 0 && (
          <ul className={classes.tariffs} aria-label="What is known">
            {kept.map((c) => (
              <li key={`${c.name} ${c.from}`}>
                {c.name}, from {dated(c.from)}
                {c.to ? ` to ${dated(c.to)}` : ""}: {says(c)}{" "}
                <Button
                  size="compact-sm"
                  variant="subtle"
                  loading={save.isPending}
                  aria-label={`Take ${c.name} out`}
                  onClick={() => save.mutate({ version: view.version, caps: kept.filter((o) => o !== c) })}
                >
                  Take it out
                </Button>
              </li>
            ))}
          </ul>
        )}
        <TextInput label="Name" value={name} error={error("name")} onChange={(e) => setName(e.currentTarget.value)} />
        <Group grow align="start">
          <TextInput
            type="date"
            label="From"
            value={from}
            error={error("from")}
            onChange={(e) => setFrom(e.currentTarget.value)}
          />
          <TextInput
            type="date"
            label="Until"
            description="Empty: until further notice."
            value={to}
            error={error("to")}
            onChange={(e) => setTo(e.currentTarget.value)}
          />
        </Group>
        <NativeSelect
          label="How much"
          data={KINDS}
          value={kind}
          onChange={(e) => setKind(e.currentTarget.value as Kind)}
        />
        {kind === "cut" ? (
          <Group grow align="start">
            <FigureField figures={figures} name="cut_pct" label="Less by, %" error={error("cut_pct")} />
            <TextInput
              label="Base year"
              inputMode="numeric"
              value={base}
              error={error("base_year")}
              onChange={(e) => setBase(e.currentTarget.value)}
            />
          </Group>
        ) : (
          <FigureField
            figures={figures}
            name="cap_l"
            label={kind === "month" ? "In a month" : "In a year"}
            quantity="volume"
            error={error("cap_l")}
          />
        )}
        <Refused error={save.error && !placed ? save.error : null} />
        <Group>
          <Button type="submit" loading={save.isPending}>
            Save what may be used
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
