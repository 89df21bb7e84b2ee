// A zone, question by question; what the plan would do with the answers so far stands below each.
import { Button, Group, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api";
import { MayManage } from "../session/MayRecord";
import { Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery, useSaveZone, zonesQuery } from "../site/queries";
import { AreaStep } from "./AreaStep";
import classes from "./Begin.module.css";
import { SprinklerDrawing } from "./drawings";
import { GrassStep } from "./GrassStep";
import { useKept } from "./kept";
import { Look } from "./Look";
import { draftQuery } from "./queries";
import { Review } from "./Review";
import { SoilStep } from "./SoilStep";
import { Choices, Step } from "./Step";
import { EXPOSURES, FALLS, SOAKED, SPRINKLERS } from "./words";

type Draft = Schemas["ZoneDraft"];
/** What is kept of a zone under way; `last` is the one before, to be copied. */
type Kept = {
  step: number;
  draft: Draft;
  last?: Draft | undefined;
  added?: string | undefined;
  /** A question is answered anew: back to all of them. */
  anew?: boolean | undefined;
};

const EMPTY: Draft = { name: "" };
const REVIEW = 8;

export function ZoneSteps() {
  const { site } = useParams({ from: "/site/$site" });
  return (
    <MayManage site={site} what="add a zone">
      <Questions site={site} />
    </MayManage>
  );
}

function Questions({ site }: { site: string }) {
  const catalogue = useQuery(catalogueQuery);
  const zones = useQuery(zonesQuery(site));
  const { state, keep } = useKept<Kept>(`fresh-meadow-zone-draft-${site}`, { step: 0, draft: EMPTY });
  const save = useSaveZone(site);
  const [tried, setTried] = useState(false);
  // What was added on an earlier visit is no news.
  const [visited] = useState(state.added);
  const added = state.added === visited ? undefined : state.added;
  const drafted = useQuery({ ...draftQuery(site, state.draft), enabled: state.step === REVIEW });
  if (catalogue.isPending || zones.isPending) return <Loading what="the questions" />;
  if (catalogue.error) return <Failed message={catalogue.error.message} retry={() => catalogue.refetch()} />;

  const { step, draft, last } = state;
  const go = (to: number, part: Partial<Draft> = {}) =>
    keep({ ...state, step: to, draft: { ...draft, ...part }, anew: to === REVIEW ? undefined : state.anew });
  const next = (part: Partial<Draft>) => go(state.anew ? REVIEW : step + 1, part);
  const names = zones.data?.map((z) => z.zone.name) ?? [];

  if (added) {
    return (
      <main className={classes.page}>
        <Added
          site={site}
          name={added}
          onAnother={() => {
            setTried(false);
            keep({ ...state, step: 0, draft: EMPTY, added: undefined });
          }}
          onLike={() => {
            setTried(false);
            keep({ ...state, step: 0, draft: { ...last, name: "" }, added: undefined });
          }}
        />
      </main>
    );
  }

  const add = () => {
    if (!drafted.data) return;
    save.mutate(
      { zone: drafted.data.zone },
      {
        onSuccess: () => keep({ step: 0, draft: EMPTY, last: draft, added: draft.name }),
      },
    );
  };
  const common = { number: step + 1, of: REVIEW + 1, onBack: step > 0 ? () => go(step - 1) : undefined };
  const steps = [
    <Step
      {...common}
      key="name"
      title="What do you call this part of the lawn?"
      hint="A zone is what one valve or one sprinkler waters."
      next={{
        // Like the last one: its answers are there, to be looked at.
        onClick: () => {
          setTried(true);
          if (draft.name.trim() !== "") go("soaked_days_ago" in draft ? REVIEW : 1);
        },
      }}
    >
      <TextInput
        label="Name"
        value={draft.name}
        autoComplete="off"
        error={
          tried && draft.name.trim() === ""
            ? "Give it a name."
            : names.includes(draft.name.trim()) && "Another zone has this name."
        }
        onChange={(e) => go(0, { name: e.currentTarget.value })}
      />
      <Text>
        <Link to="/site/$site/zones/new" params={{ site }}>
          All figures on one form
        </Link>
      </Text>
    </Step>,
    <Step
      {...common}
      key="sprinkler"
      title="What waters it?"
      hint="Look at it while it runs."
      onUnknown={() => next({ sprinkler: null })}
    >
      <Choices
        label="Sprinklers"
        choices={catalogue.data.sprinklers.map((s) => ({
          value: s.key,
          label: s.name,
          hint: SPRINKLERS[s.key],
          drawing: <SprinklerDrawing kind={s.key} />,
        }))}
        chosen={draft.sprinkler}
        onChoose={(sprinkler) => next({ sprinkler })}
      />
    </Step>,
    <Step {...common} key="grass" title="Which grass is it?" onUnknown={() => next({ grass: null })}>
      <GrassStep catalogue={catalogue.data} chosen={draft.grass} onChoose={(grass) => next({ grass })} />
    </Step>,
    <Step {...common} key="soil" title="What soil is it on?" onUnknown={() => next({ soil: null })}>
      <SoilStep catalogue={catalogue.data} chosen={draft.soil} onChoose={(soil) => next({ soil })} />
    </Step>,
    <Step {...common} key="sun" title="How much sun does it get?" onUnknown={() => next({ exposure: null })}>
      <Choices
        label="Sun and edges"
        choices={EXPOSURES}
        chosen={draft.exposure}
        onChoose={(exposure) => next({ exposure })}
      />
    </Step>,
    <Step
      {...common}
      key="slope"
      title="How does it slope?"
      hint="The fall over ten metres, or thirty feet, the way water runs."
      onUnknown={() => next({ fall_m: null })}
    >
      <Choices
        label="Slope"
        choices={FALLS}
        chosen={FALLS.find((f) => f.fall_m === draft.fall_m)?.value}
        onChoose={(value) => next({ fall_m: FALLS.find((f) => f.value === value)?.fall_m })}
      />
    </Step>,
    <Step
      {...common}
      key="area"
      title="How large is it?"
      hint="Litres and cost go by it; minutes do not."
      next={{ onClick: () => next({}) }}
      onUnknown={() => next({ area: null })}
    >
      <AreaStep site={site} draft={draft} onChange={(area) => go(step, { area })} />
    </Step>,
    <Step
      {...common}
      key="soaked"
      title="When was it last soaked?"
      hint="By good rain or by the sprinklers: the plan begins with what it has used since."
      onUnknown={() => next({ soaked_days_ago: null })}
    >
      <Choices
        label="Last soaked"
        choices={SOAKED}
        chosen={SOAKED.find((s) => s.days === draft.soaked_days_ago)?.value}
        onChoose={(value) => next({ soaked_days_ago: SOAKED.find((s) => s.value === value)?.days })}
      />
    </Step>,
    <Step
      {...common}
      key="review"
      title={`${draft.name}: as you told it`}
      next={{ label: "Add this zone", onClick: add, loading: save.isPending || drafted.isPending }}
    >
      <Refused error={save.error ?? drafted.error} />
      <Review
        draft={draft}
        zone={drafted.data?.zone}
        catalogue={catalogue.data}
        onChange={(to) => keep({ ...state, step: to, anew: true })}
      />
    </Step>,
  ];
  return (
    <main className={classes.page}>
      {steps[step] ?? steps[0]}
      {step > 0 && <Look site={site} draft={draft} />}
    </main>
  );
}

function Added(props: { site: string; name: string; onAnother: () => void; onLike: () => void }) {
  const navigate = useNavigate();
  return (
    <section className={classes.step}>
      <h1>{props.name} is planned.</h1>
      <Text>Is there another part of the lawn?</Text>
      <Group>
        <Button onClick={props.onLike}>One like it</Button>
        <Button variant="outline" onClick={props.onAnother}>
          Another zone
        </Button>
        <Button
          variant="outline"
          onClick={() => navigate({ to: "/site/$site/begin-weather", params: { site: props.site } })}
        >
          That is all
        </Button>
      </Group>
    </section>
  );
}
