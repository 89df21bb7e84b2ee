// What is asked about, drawn: plain lines, to be told apart in the sun. The words beside them say the same.
import type { ReactNode } from "react";
import type { Schemas } from "../../api";

function Drawing({ children }: { children: ReactNode }) {
  return (
    <svg
      width="52"
      height="44"
      viewBox="0 0 52 44"
      aria-hidden="true"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.8"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      {children}
    </svg>
  );
}

const GROUND = <path d="M2 40H50" stroke="var(--straw)" />;
const spray = (paths: string) => <path d={paths} stroke="var(--water)" strokeDasharray="2.5 3" />;

const SPRINKLERS: Record<Schemas["Kind"], ReactNode> = {
  fixed_spray: (
    <>
      {GROUND}
      <path d="M26 40V28M22 28H30" />
      {spray("M26 27Q14 14 5 30M26 27Q38 14 47 30M26 27Q20 10 13 20M26 27Q32 10 39 20")}
    </>
  ),
  rotor: (
    <>
      {GROUND}
      <path d="M12 40V27M8 27H17" />
      {spray("M17 25Q34 6 49 32")}
      <path d="M5 20A9 9 0 0 1 19 18M19 18L16 15M19 18L15.500 20" />
    </>
  ),
  multi_stream: (
    <>
      {GROUND}
      <path d="M26 40V29M23 29H29" />
      {spray("M26 27Q16 12 4 20M26 27Q19 6 14 10M26 27Q26 8 26 4M26 27Q33 6 38 10M26 27Q36 12 48 20")}
    </>
  ),
  impact: (
    <>
      {GROUND}
      <path d="M14 40V26M14 26H24M10 20L20 24M14 26L8 30" />
      {spray("M25 25Q38 8 50 30")}
    </>
  ),
  portable: (
    <>
      {GROUND}
      <path d="M2 36Q10 28 16 36T30 36M30 36H40M35 36V30M28 30H42" />
      {spray("M30 28Q24 12 14 18M40 28Q46 12 50 20M35 28Q35 14 35 8")}
    </>
  ),
  drip: (
    <>
      {GROUND}
      <path d="M2 22H50" />
      {spray("M12 25V36M26 25V36M40 25V36")}
    </>
  ),
};

export const SprinklerDrawing = ({ kind }: { kind: Schemas["Kind"] }) => <Drawing>{SPRINKLERS[kind]}</Drawing>;

const blade = (width: number) => (
  <path d={`M26 40C${26 - width} 28 ${26 - width} 16 26 4C${26 + width} 16 ${26 + width} 28 26 40Z`} />
);
const TUFT = "M26 40Q20 26 14 16M26 40Q26 24 26 12M26 40Q32 26 38 16";

const SIGNS: Partial<Record<Schemas["Sign"], ReactNode>> = {
  green_in_winter: (
    <>
      {GROUND}
      <path d={TUFT} stroke="var(--mantine-color-turf-5)" strokeWidth="3" />
    </>
  ),
  straw_in_winter: (
    <>
      {GROUND}
      <path d={TUFT} stroke="var(--et)" strokeWidth="3" strokeDasharray="6 3" />
    </>
  ),
  no_runners: (
    <>
      {GROUND}
      <path d={TUFT} />
    </>
  ),
  runners_above: (
    <>
      {GROUND}
      <path d="M4 34Q14 28 26 34T48 34M10 34V24M26 34V22M42 34V24" />
    </>
  ),
  runners_below: (
    <>
      <path d="M2 24H50" stroke="var(--straw)" />
      <path d="M12 24V10M38 24V10M12 24Q18 38 38 30M38 30V24M12 24Q6 34 3 32" />
    </>
  ),
  runners_both: (
    <>
      <path d="M2 26H50" stroke="var(--straw)" />
      <path d="M4 22Q20 14 34 22M12 22V10M34 22V10M12 26Q20 40 46 32" />
    </>
  ),
  bristle: blade(1),
  narrow: blade(4),
  wide: blade(10),
  tip_like_a_boat: <path d="M16 42V20Q16 6 26 4Q36 6 36 20V42M26 42V6" />,
  tip_pointed: <path d="M16 42V24L26 2L36 24V42M26 42V8" />,
  tip_round: <path d="M16 42V16A10 10 0 0 1 36 16V42M26 42V8" />,
  head_of_toes: <path d="M26 42V22M26 22L8 10M26 22L16 4M26 22V2M26 22L36 4M26 22L44 10" />,
  head_like_y: <path d="M26 42V22M26 22L14 4M26 22L38 4" />,
  head_of_one_spike: <path d="M26 42V20M26 20V4" strokeWidth="3.500" />,
  head_like_spray: <path d="M26 42V6M26 30L14 24M26 30L38 24M26 22L16 16M26 22L36 16M26 14L20 10M26 14L32 10" />,
  head_of_combs: <path d="M20 42V4M20 8H34M20 18H36M26 8V12M31 8V12M26 18V22M33 18V22" />,
};

export function SignDrawing({ sign }: { sign: Schemas["Sign"] }) {
  const drawn = SIGNS[sign];
  return drawn ? <Drawing>{drawn}</Drawing> : null;
}

const hand = <path d="M4 40Q10 30 20 30H32Q40 30 44 24" stroke="var(--straw)" />;
const BALLS: Record<Schemas["Ball"], ReactNode> = {
  falls_apart: (
    <>
      {hand}
      <path d="M14 22h.1M22 18h.1M30 24h.1M18 27h.1M26 26h.1M34 19h.1M24 12h.1" strokeWidth="3" />
    </>
  ),
  no_ribbon: (
    <>
      {hand}
      <circle cx="24" cy="19" r="9" />
    </>
  ),
  short_ribbon: (
    <>
      {hand}
      <circle cx="20" cy="20" r="8" />
      <path d="M28 18H36V22H28" />
    </>
  ),
  middling_ribbon: (
    <>
      {hand}
      <circle cx="16" cy="20" r="8" />
      <path d="M24 17H42V22H24" />
    </>
  ),
  long_ribbon: (
    <>
      {hand}
      <circle cx="12" cy="20" r="7" />
      <path d="M19 17H44Q50 17 49 28L45 27Q46 22 42 22H19" />
    </>
  ),
};

export const BallDrawing = ({ ball }: { ball: Schemas["Ball"] }) => <Drawing>{BALLS[ball]}</Drawing>;
