// A can test with one wet thumb: lay out the cans, run the zone, type the readings. Kept on this phone first, sent once.
import { Button, Group, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api";
import { MayRecord } from "../session/MayRecord";
import { Empty, Failed, Loading } from "../shell/States";
import { zonesQuery } from "../site/queries";
import { type Draft, forgetDraft, useDraft } from "./draft";
import { Finished } from "./Finished";
import { LayOut } from "./LayOut";
import { testsQuery } from "./queries";
import { ReadCans } from "./ReadCans";
import { Sending } from "./Sending";

export function CanTestPage() {
  const { site, zone } = useParams({ from: "/site/$site/sprinklers/$zone" });
  return (
    <MayRecord site={site} what="test sprinklers">
      <CanTesting site={site} zone={zone} />
    </MayRecord>
  );
}

/** What is kept cannot be gone on with: it can be saved, and forgotten. */
function Unreadable({ name, text, onForget }: { name: string; text: string; onForget: () => void }) {
  return (
    <main>
      <Empty title={`A test of ${name} that cannot be read`}>
        <Text>
          A test is kept on this device that this version of the program cannot go on with. Save it as a file if its
          readings matter, then begin anew.
        </Text>
        <Group gap="sm">
          <Button
            component="a"
            variant="outline"
            href={`data:application/json,${encodeURIComponent(text)}`}
            download="can-test.json"
          >
            Save it as a file
          </Button>
          <Button onClick={onForget}>Forget it and begin anew</Button>
        </Group>
      </Empty>
    </main>
  );
}

function CanTesting({ site, zone }: { site: string; zone: string }) {
  const id = Number(zone);
  const zones = useQuery(zonesQuery(site));
  const tests = useQuery(testsQuery(site));
  const [kept, setDraft] = useDraft(site, id);
  const [done, setDone] = useState<{ draft: Draft; added: Schemas["Added"] }>();
  if (zones.isPending) return <Loading what="the zone" />;
  // Without a connection what was known of the zone is enough.
  if (!zones.data) return <Failed message={zones.error.message} retry={() => zones.refetch()} />;
  const found = zones.data.find((z) => z.id === id);
  if (!found) return <Failed message="There is no such zone here." />;
  const name = found.zone.name;
  const at = { site, zone: id, name };
  if (done) {
    return <Finished {...at} test={done.draft.test} added={done.added} onClose={() => setDraft(undefined)} />;
  }
  if (kept && "broken" in kept) {
    return <Unreadable name={name} text={kept.broken} onForget={() => setDraft(undefined)} />;
  }
  const draft = kept?.draft;
  if (!draft) {
    if (tests.isLoading) return <Loading what="earlier tests" />;
    return <LayOut {...at} area={found.zone.area_m2} tests={tests.data ?? []} onBegin={setDraft} />;
  }
  if (draft.finished) {
    const sent = (added: Schemas["Added"]) => {
      forgetDraft(site, id);
      setDone({ draft, added });
    };
    return (
      <Sending {...at} draft={draft} onSent={sent} onBack={() => setDraft({ ...draft, finished: false, sent: true })} />
    );
  }
  return <ReadCans {...at} draft={draft} setDraft={setDraft} />;
}
