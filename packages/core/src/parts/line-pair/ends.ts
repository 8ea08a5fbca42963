import { across, attached, cascade, changingSlowly, symmetricPair, type Electrical } from '../../electrical';
import {
  lengthIn,
  type ElectricalContext,
  type PartFacts,
  type PartState,
  type PinEnd,
  type ResolveContext,
} from '../contract';
import { sideOf } from '../junction';
import { tabled } from '../tabled';

/** Facts of a pair, by pin: by how much the strip there goes on before it ends open beside the other one, which goes on, m. */
const OPENS = ['open1', 'open2', 'open3', 'open4'] as const;
/** The same: by which angle it bends away from the other one by a mitred corner, rad. */
const AWAY = ['away1', 'away2', 'away3', 'away4'] as const;

/** Names of the facts. */
export const endFacts: readonly string[] = [...OPENS, ...AWAY];
/** By how many times as much those that are lengths grow as copper gets wider when it is etched. */
export const endsEtched: Readonly<Record<string, number>> = Object.fromEntries(
  OPENS.map((name) => [name, 0.5]),
);

const RIGHT = Math.PI / 2;

/** The pin beside it at the same end. */
const partner = (pin: number): number => pin ^ 1;

/** What a pair learns of its ends. */
export function factsOf({ open, neighbour, corner, settings }: ResolveContext): PartFacts {
  const facts: Record<string, readonly number[]> = {};
  for (let pin = 0; pin < 4; pin++) {
    const other = partner(pin);
    const longer = open(pin);
    if (longer !== undefined && open(other) === undefined && neighbour(other) !== undefined)
      facts[OPENS[pin]] = [longer];
    const met = corner(pin);
    if (!met?.isMitred) continue;
    // Seen along the first strip the second one lies to one side, and at the near end one looks back.
    const lies = sideOf(settings) * (pin % 2 === 0 ? 1 : -1) * (pin < 2 ? -1 : 1);
    if (met.angle * lies < 0) facts[AWAY[pin]] = [Math.abs(met.angle)];
  }
  return facts;
}

/** A one-pin part of the opposite admittance. */
const opposite = (part: Electrical): Electrical => ({
  pins: 1,
  scatter(f, zn, re, im) {
    part.scatter(f, zn, re, im);
    const size = re[0] * re[0] + im[0] * im[0];
    re[0] /= size;
    im[0] /= -size;
  },
});

/** What behind a reciprocal two-pin part makes nothing of it: the inverse of its S, with the pins changed. */
const undone = (part: Electrical): Electrical => ({
  pins: 2,
  scatter(f, zn, re, im) {
    part.scatter(f, zn, re, im);
    const dr = re[0] * re[3] - im[0] * im[3] - (re[1] * re[1] - im[1] * im[1]);
    const di = re[0] * im[3] + im[0] * re[3] - 2 * re[1] * im[1];
    const size = dr * dr + di * di;
    for (let k = 0; k < 4; k++) {
      const sign = k === 0 || k === 3 ? 1 : -1;
      const [x, y] = [re[k], im[k]];
      re[k] = (sign * (x * dr + y * di)) / size;
      im[k] = (sign * (y * dr - x * di)) / size;
    }
  },
});

/** Ends of a pair as they are solved with the strip beside; `longer` by all of them than its length, m. */
interface Ends {
  readonly ends: readonly PinEnd[];
  readonly longer: number;
}

/** The ends of a pair that tables hold; each other one is what the pieces there make of it by themselves. */
export function endsOf({ values, facts }: PartState, context: ElectricalContext): Ends {
  const [width, gap] = [values.width.re, values.gap.re];
  const fact = (name: string) => lengthIn(facts, name);
  const bendsAway = (pin: number) => Math.abs((fact(AWAY[pin]) ?? 0) - RIGHT) < 1e-6;
  const corner = () => tabled('mitred-bend', [width], context, { widths: [width, width] });
  let longer = 0;

  /** Both strips bend away. */
  const bent = (pins: readonly number[]): PinEnd | undefined => {
    const single = corner();
    const [even, odd] = (['pair-bends-even', 'pair-bends-odd'] as const).map((kind) =>
      tabled(kind, [width, gap], context, { widths: [width, width] }),
    );
    if (!single || !even || !odd) return undefined;
    // The pieces at the pins are bends by themselves, which are taken away from what they are beside one another.
    const [e, o] = [even, odd].map((mode) => cascade([mode, undone(single)]));
    return { pins, beside: [], electrical: changingSlowly(symmetricPair(e, o)) };
  };

  /** One strip ends open beside the other one. */
  const opened = (pin: number): PinEnd | undefined => {
    const other = partner(pin);
    const isBent = bendsAway(other);
    // A corner stays where it is; where the other strip goes straight on, the pair ends where the open strip does.
    const by = isBent ? 0 : fact(OPENS[pin])!;
    const end = tabled(isBent ? 'pair-end-bent' : 'pair-end', [width, gap], context, {
      widths: [width, width, width],
      longer: [0, 0, -by],
    });
    const open = tabled('open-end', [width], context, { widths: [width], longer: [by] });
    const single = isBent ? corner() : undefined;
    if (!end || !open || (isBent && !single)) return undefined;
    longer += by;
    const beside = attached(end, 0, across(opposite(open)), 0);
    const electrical = single ? attached(beside, 2, undone(single), 0) : beside;
    return { pins: [other], beside: [pin], electrical: changingSlowly(electrical) };
  };

  const ends = [0, 2].flatMap((near) => {
    const pins = [near, near + 1];
    const pin = pins.find((p) => fact(OPENS[p]) !== undefined);
    const found = pin !== undefined ? opened(pin) : pins.every(bendsAway) ? bent(pins) : undefined;
    return found ? [found] : [];
  });
  return values.length.re + longer > 0 ? { ends, longer } : { ends: [], longer: 0 };
}
