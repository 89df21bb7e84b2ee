// A site, question by question: its name, where it is, what turns the water on, when watering is allowed, what water there is.
import { Button, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { FilePick } from "../files/FilePick";
import { meQuery } from "../session/queries";
import { Refused } from "../shell/States";
import { useSignOut } from "../shell/useSignOut";
import { Hours } from "../site/Hours";
import classes from "./Begin.module.css";
import { type SiteAnswers, useKept } from "./kept";
import { PlaceStep } from "./PlaceStep";
import { useBeginSite } from "./queries";
import { Choices, Step } from "./Step";
import { SupplyStep } from "./SupplyStep";
import { useCreateSite } from "./useCreateSite";

type Kept = { step: number; draft: SiteAnswers };

const STEPS = 5;
const HOURS = 3;
const SUPPLY = 4;

const TURNED_ON_BY: { value: NonNullable<SiteAnswers["turned_on_by"]>; label: string; hint: string }[] = [
  { value: "controller", label: "A controller that takes any programme", hint: "set by an app or a web page" },
  { value: "dial", label: "A controller with a dial and keys", hint: "the plan keeps to four starts a day" },
  { value: "tap_timer", label: "A timer on a tap", hint: "the plan keeps to four starts a day" },
  { value: "hand", label: "I do, by hand", hint: "in the morning, in two goes at most" },
];

const ANY_HOUR: Schemas["Window"][] = [
  {
    days: ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"],
    dates: "any",
    from: "00:00",
    to: "23:59",
  },
];
const SOME_HOURS: Schemas["Window"][] = ANY_HOUR.map((w) => ({ ...w, from: "04:00", to: "09:00" }));

export function SiteSteps() {
  const { data: me } = useQuery(meQuery);
  const { state, keep, forget } = useKept<Kept>("fresh-meadow-site-draft", { step: 0, draft: {} });
  const navigate = useNavigate();
  const signOut = useSignOut();
  const begin = useBeginSite();
  const create = useCreateSite();
  const [some, setSome] = useState(false);
  const [tried, setTried] = useState(false);
  const { step, draft } = state;
  const first = me?.sites.length === 0;
  const go = (to: number, part: SiteAnswers = {}) => keep({ step: to, draft: { ...draft, ...part } });
  const common = { number: step + 1, of: STEPS, onBack: step > 0 ? () => go(step - 1) : undefined };

  const make = (flow: Schemas["SiteDraft"]["flow"]) => {
    const { name = "", time_zone = "", latitude = 0, longitude = 0, ...rest } = draft;
    begin.mutate(
      { name, time_zone, latitude, longitude, ...rest, flow },
      {
        onSuccess: async (site) => {
          forget();
          await navigate({ to: "/site/$site/add-zone", params: { site: String(site.id) } });
        },
      },
    );
  };
  const field = begin.error instanceof ApiFailure ? begin.error.problem?.field : undefined;
  const steps = [
    <Step
      {...common}
      key="name"
      title={first ? "Your lawn: what do you call it?" : "Another lawn: what do you call it?"}
      next={{
        onClick: () => {
          setTried(true);
          if (draft.name?.trim()) go(1);
        },
      }}
    >
      <TextInput
        label="Name"
        value={draft.name ?? ""}
        autoComplete="off"
        error={tried && !draft.name?.trim() && "Give it a name."}
        onChange={(e) => go(0, { name: e.currentTarget.value })}
      />
    </Step>,
    <PlaceStep {...common} key="place" draft={draft} onTell={(part) => go(1, part)} onNext={(part) => go(2, part)} />,
    <Step
      {...common}
      key="turned-on"
      title="What turns the water on?"
      hint="It decides in how many goes a zone can be watered."
      onUnknown={() => go(HOURS, { turned_on_by: null })}
    >
      <Choices
        label="What turns the water on"
        choices={TURNED_ON_BY}
        chosen={draft.turned_on_by}
        onChoose={(turned_on_by) => go(HOURS, { turned_on_by })}
      />
    </Step>,
    <Step
      {...common}
      key="hours"
      title="When may you water?"
      hint="Local rules decide; this only records them."
      next={some || draft.windows ? { onClick: () => go(SUPPLY) } : undefined}
      onUnknown={() => go(SUPPLY, { windows: null })}
    >
      <Choices
        label="Allowed hours"
        choices={[
          { value: "any", label: "At any time", hint: "no rule where I live" },
          { value: "some", label: "On some days, or in some hours" },
        ]}
        chosen={some ? "some" : undefined}
        onChoose={(value) => {
          if (value === "any") go(SUPPLY, { windows: ANY_HOUR });
          else {
            setSome(true);
            go(HOURS, { windows: draft.windows ?? SOME_HOURS });
          }
        }}
      />
      {(some || draft.windows) && (
        <Hours windows={draft.windows ?? SOME_HOURS} onChange={(windows) => go(HOURS, { windows })} errors={{}} />
      )}
    </Step>,
    <SupplyStep
      {...common}
      key="supply"
      problem={field?.startsWith("flow") ? begin.error?.message : undefined}
      pending={begin.isPending}
      flow={draft.flow}
      onKeep={(flow) => go(SUPPLY, { flow })}
      onTell={make}
    />,
  ];
  return (
    <main className={classes.page}>
      {steps[step] ?? steps[0]}
      {!field?.startsWith("flow") && <Refused error={begin.error ?? create.error} />}
      {step === 0 && (
        <section className={classes.look} aria-label="Other ways">
          <div>
            <Text className="quiet">You have a site document of another Fresh Meadow?</Text>
            <FilePick
              label="Open a site document"
              accept=".json,application/json"
              onText={(text) => create.mutate(text)}
            />
            {first ? (
              <Button variant="subtle" mt="sm" onClick={() => signOut.mutate()}>
                Sign out
              </Button>
            ) : (
              <p>
                <Link to="/">Back to your sites</Link>
              </p>
            )}
          </div>
        </section>
      )}
    </main>
  );
}
