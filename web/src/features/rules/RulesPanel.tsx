// Local rules: read as sentences, edited in plain fields, the next two weeks drawn as they would be.
import { Button, Group, Menu, Stack, Text } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ApiFailure, type SiteView } from "../../api";
import { useUnits } from "../../units";
import { FilePick } from "../files/FilePick";
import { useRights } from "../session/rights";
import { Failed, Loading, Refused } from "../shell/States";
import { zonesQuery } from "../site/queries";
import { previewQuery, type Rule, type Rules, useSaveRules } from "./queries";
import { RuleFields } from "./RuleFields";
import classes from "./Rules.module.css";
import { Stages } from "./Stages";
import { TwoWeeks } from "./TwoWeeks";
import { ruleSentence, STARTS } from "./words";

export function RulesPanel({ site, view }: { site: string; view: SiteView }) {
  const zones = useQuery(zonesQuery(site));
  const { manage } = useRights(site);
  const units = useUnits();
  const save = useSaveRules(site, () =>
    notifications.show({ message: "The rules are saved, and all is planned by them." }),
  );
  const [rules, setRules] = useState<Rules>(view.rules);
  const [unread, setUnread] = useState<string>();
  const [drawn] = useDebouncedValue(rules, 300);
  const preview = useQuery(previewQuery(site, drawn, view.version));
  if (zones.isPending) return <Loading what="the rules" />;
  if (zones.error) return <Failed message={zones.error.message} retry={() => zones.refetch()} />;
  const ended = (to: string | null | undefined) => to != null && to < view.today;
  const named = zones.data
    .filter((z) => !ended(z.zone.active_to))
    .map((z) => ({ id: String(z.id), name: z.zone.name }));
  const list = rules.list ?? [];
  const stages = rules.stages ?? [];
  const set = (part: Partial<Rules>) => setRules({ ...rules, ...part });
  const failure = [save.error, preview.error].find((e): e is ApiFailure => e instanceof ApiFailure);
  const field = failure?.problem?.field;
  const error = (of: string) => (field === of ? failure?.message : undefined);
  const submit = () => save.mutate({ version: view.version, rules });
  const name = (id: string) => named.find((z) => z.id === id)?.name ?? id;
  return (
    <Stack>
      <Text className="quiet">
        Local rules decide; this only records them. All that are in force hold together, and only take away from the
        site’s own hours. Nothing is planned against them.
      </Text>
      <h2>The next two weeks</h2>
      {preview.data ? (
        <TwoWeeks days={preview.data} zones={named} timeZone={view.site.time_zone} />
      ) : (
        preview.isPending && <Loading what="the next two weeks" />
      )}
      {failure && <Refused error={failure} />}
      {manage ? (
        <>
          <div className={classes.columns}>
            <Stack>
              <h2>Rules</h2>
              {list.length === 0 && <Text>No rule: the site’s own hours are all that counts.</Text>}
              {list.map((rule, i) => (
                <RuleFields
                  // biome-ignore lint/suspicious/noArrayIndexKey: rules have no identity but their place
                  key={i}
                  rule={rule}
                  number={i + 1}
                  zones={named}
                  stages={stages.flatMap((s) => (s.stage ? [s.stage] : []))}
                  today={view.today}
                  error={error}
                  onChange={(changed) => set({ list: list.map((r, j) => (j === i ? changed : r)) })}
                  onRemove={() => set({ list: list.filter((_, j) => j !== i) })}
                />
              ))}
              <Menu position="bottom-start">
                <Menu.Target>
                  <Button variant="outline">Add a rule ▾</Button>
                </Menu.Target>
                <Menu.Dropdown>
                  {STARTS.map((start) => (
                    <Menu.Item key={start.label} onClick={() => set({ list: [...list, start.rule(view.today)] })}>
                      {start.label}
                    </Menu.Item>
                  ))}
                </Menu.Dropdown>
              </Menu>
            </Stack>
            <Stack>
              <Stages stages={stages} today={view.today} error={error} onChange={(next) => set({ stages: next })} />
              <h2>Take them along</h2>
              <a
                href={`data:application/json,${encodeURIComponent(`${JSON.stringify(rules, null, 2)}\n`)}`}
                download="rules.json"
              >
                These rules, rules.json
              </a>
              <FilePick
                label="Rules of another site (JSON)"
                hint="They replace those on this page; nothing is saved before you save. Zones of the other site are left out."
                accept=".json,application/json"
                onText={(text) => {
                  const read = readRules(text, named);
                  setUnread(read ? undefined : "This is no file of rules: it needs a list of rules under “list”.");
                  if (read) setRules(read);
                }}
              />
              {unread && <p role="alert">{unread}</p>}
            </Stack>
          </div>
          <Group justify="flex-end">
            <Button onClick={submit} loading={save.isPending}>
              Save and plan
            </Button>
          </Group>
        </>
      ) : (
        <ul>
          {list.map((rule) => (
            <li key={rule.name}>
              {rule.name}. {ruleSentence(rule, name, units)}
            </li>
          ))}
        </ul>
      )}
    </Stack>
  );
}

/** Rules of a file, without zones that this site does not have; the server checks the rest. */
function readRules(text: string, zones: { id: string }[]): Rules | undefined {
  try {
    const read = JSON.parse(text) as Rules;
    if (!Array.isArray(read.list)) return undefined;
    const known = (id: string) => zones.some((z) => z.id === id);
    const list = read.list.map((rule: Rule) => ({ ...rule, zones: (rule.zones ?? []).filter(known) }));
    return { ...read, list };
  } catch {
    return undefined;
  }
}
