// What is asked, and the answers, in plain words.
import type { Schemas } from "../../api";

export const QUESTIONS: Record<Schemas["Question"], { title: string; hint: string }> = {
  winter: {
    title: "What does it look like after hard frosts?",
    hint: "Some grasses stay green, others turn to straw until spring.",
  },
  runners: { title: "How does it spread?", hint: "Pull up a handful at the edge and look for runners." },
  blade: { title: "How wide is a blade?", hint: "Measure across the middle of a grown blade." },
  tip: { title: "What is the end of a blade like?", hint: "Look at one that was not mown." },
  touch: { title: "How does it feel under a bare hand?", hint: "Stroke against the grain." },
  seed_head: {
    title: "What do its seed heads look like?",
    hint: "Look where it is not mown: along a fence or a post.",
  },
  back: { title: "What is the underside of a blade like?", hint: "Turn one over in the sun." },
  origin: { title: "How was the lawn made?", hint: "Some grasses are sold as sod or plugs alone." },
};

export const SIGNS: Record<Schemas["Sign"], { label: string; hint?: string }> = {
  green_in_winter: { label: "Green, or a duller green" },
  straw_in_winter: { label: "The colour of straw, all of it" },
  no_runners: { label: "In tufts, without runners" },
  runners_above: { label: "Runners over the ground" },
  runners_below: { label: "Runners below the ground", hint: "white, with a pointed end" },
  runners_both: { label: "Runners above and below" },
  bristle: { label: "Like a bristle", hint: "narrower than 1.5 mm (1/16 in)" },
  narrow: { label: "Narrow", hint: "1.5 to 4 mm (1/16 to 5/32 in)" },
  wide: { label: "Wide", hint: "wider than 4 mm (5/32 in)" },
  tip_like_a_boat: { label: "Like the bow of a boat", hint: "it splits when pressed flat" },
  tip_pointed: { label: "Pointed" },
  tip_round: { label: "Blunt or round" },
  stiff: { label: "Stiff and prickly" },
  hairy: { label: "Hairy" },
  smooth: { label: "Neither stiff nor hairy" },
  head_of_toes: { label: "Three to seven spikes from one point", hint: "like the toes of a bird" },
  head_like_y: { label: "Two spikes, like a Y" },
  head_of_one_spike: { label: "One spike" },
  head_like_spray: { label: "An open spray of branches" },
  head_of_combs: { label: "Small combs to one side" },
  back_shiny: { label: "Shiny" },
  back_dull: { label: "Dull" },
  sown: { label: "Sown" },
  laid: { label: "Laid: sod, plugs or sprigs" },
};

export const BALLS: { value: Schemas["Ball"]; label: string; hint?: string }[] = [
  { value: "falls_apart", label: "It falls apart", hint: "there is no ball" },
  { value: "no_ribbon", label: "A ball, but no ribbon" },
  { value: "short_ribbon", label: "A short ribbon", hint: "it breaks before 25 mm (1 in)" },
  { value: "middling_ribbon", label: "A longer ribbon", hint: "25 to 50 mm (1 to 2 in)" },
  { value: "long_ribbon", label: "A long ribbon", hint: "50 mm (2 in) and more" },
];

export const FEELS: { value: Schemas["Feel"]; label: string }[] = [
  { value: "gritty", label: "Gritty: sand is what one feels" },
  { value: "smooth", label: "Smooth, like flour" },
  { value: "neither", label: "Neither more than the other" },
];

export const EXPOSURES: { value: Schemas["Exposure"]; label: string; hint?: string }[] = [
  { value: "full_sun", label: "Full sun" },
  { value: "half_shade", label: "Shade for half the day" },
  { value: "deep_shade", label: "Shade for most of the day" },
  { value: "hot_edge", label: "Along paving or a wall", hint: "or a slope that faces the sun" },
  { value: "windy", label: "Open to the wind" },
];

export const SPRINKLERS: Record<Schemas["Kind"], string> = {
  fixed_spray: "small fixed heads, a fan of fine drops",
  rotor: "one stream that turns",
  multi_stream: "several thin streams that turn",
  impact: "an arm that beats through the stream",
  portable: "one sprinkler on a hose, moved by hand",
  drip: "a line with small holes",
};

export const FALLS: { value: string; label: string; hint: string; fall_m: number }[] = [
  { value: "flat", label: "Flat", hint: "a ball stays where it lies", fall_m: 0.1 },
  { value: "gentle", label: "Gentle", hint: "half a metre over ten (1.5 ft over 30)", fall_m: 0.5 },
  { value: "steep", label: "Steep", hint: "one and a half metres over ten (5 ft over 30)", fall_m: 1.5 },
  { value: "bank", label: "A bank", hint: "three metres over ten (10 ft over 30)", fall_m: 3 },
];

export const SOAKED: { value: string; label: string; days: number }[] = [
  { value: "0", label: "Today or last night", days: 0 },
  { value: "2", label: "One to two days ago", days: 2 },
  { value: "4", label: "Three to five days ago", days: 4 },
  { value: "8", label: "About a week ago", days: 8 },
  { value: "16", label: "Longer ago", days: 16 },
];

/** `7 days`, `7 days (5 to 13)`: the value, and between what it may lie, in whole numbers. */
export function between({ low, value, high }: { low: number; value: number; high: number }, unit: string): string {
  const [from, at, to] = [low, value, high].map((x) => Math.max(1, Math.round(x)));
  const said = `${at} ${at === 1 ? unit : `${unit}s`}`;
  return from === to ? said : `${said} (${from} to ${to})`;
}
