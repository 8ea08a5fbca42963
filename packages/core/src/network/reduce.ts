import { across, attached, closed, type Electrical, type Trap } from '../electrical';
import { GROUND, type Network } from './joined';

/** A part while the network is taken together. */
interface Joined {
  electrical: Electrical;
  /** Nodes at its pins. */
  nodes: string[];
}

/** A network with fewer parts and the same response at its ports, and whether its parts could not be joined somewhere. */
export interface Reduced {
  readonly network: Network;
  /** Whether two parts that were joined resonate without losses at the frequency just solved: the result means nothing. */
  readonly trapped: () => boolean;
}

const reflection = (value: number): Electrical => ({
  pins: 1,
  scatter(_f, _zn, re, im) {
    re[0] = value;
    im[0] = 0;
  },
});
const short = reflection(-1);
const open = reflection(1);

/** Pins up to which a part takes others in: what that costs grows with their square. */
const MOST_PINS = 8;

/**
 * Takes together what can be taken together exactly, part by part: what has one pin closes the pin that it is joined to
 * or stands across the node that it hangs at, and what has two pins prolongs what it is joined to. A ladder, a cascade with
 * stubs, a tree becomes one part; of anything else its rings remain. Joining two parts costs a handful of products,
 * where a pin more in the system of equations costs an elimination.
 */
export function reduce({ parts, ports }: Network): Reduced {
  const trap: Trap = { sprung: false };
  const all: (Joined | undefined)[] = parts.map(({ electrical, nodes }) => ({
    electrical,
    nodes: [...nodes],
  }));
  const atPort = new Set(ports.map((p) => p.node));
  /** Pins at each node. */
  const here = new Map<string, { part: number; pin: number }[]>();
  const list = () => {
    here.clear();
    all.forEach((part, index) =>
      part?.nodes.forEach((node, pin) => {
        const pins = here.get(node);
        if (pins) pins.push({ part: index, pin });
        else here.set(node, [{ part: index, pin }]);
      }),
    );
  };
  /** One round of joining; false where nothing is left to join. */
  const round = (): boolean => {
    let joined = false;
    list();
    // Parts that were changed in this round have other pins than those that are listed.
    const stale = new Set<number>();
    /** Closes a pin for good; what has no other stays as it is. */
    const ended = (index: number, pin: number, by: Electrical): boolean => {
      const part = all[index]!;
      if (stale.has(index) || part.nodes.length < 2) return false;
      part.electrical = closed(part.electrical, pin, by, trap);
      part.nodes.splice(pin, 1);
      stale.add(index);
      return true;
    };
    for (const [node, pins] of here) {
      if (pins.some((p) => stale.has(p.part))) {
        joined = true;
        continue;
      }
      if (node === GROUND) {
        for (const { part, pin } of pins) joined = ended(part, pin, short) || joined;
        continue;
      }
      if (pins.length === 1 && !atPort.has(node)) {
        joined = ended(pins[0].part, pins[0].pin, open) || joined;
        continue;
      }
      const own = new Set(pins.map((p) => p.part));
      if (own.size < pins.length || own.size < 2) continue;
      const byPins = [...pins].sort((a, b) => all[a.part]!.nodes.length - all[b.part]!.nodes.length);
      const [small, large] = byPins;
      const a = all[small.part]!;
      const b = all[large.part]!;
      if (b.nodes.length > MOST_PINS) continue;
      const between = pins.length === 2 && !atPort.has(node);
      if (a.nodes.length === 1) {
        // What else stands at the node stays there.
        if (between) {
          b.electrical = closed(b.electrical, large.pin, a.electrical, trap);
          b.nodes.splice(large.pin, 1);
        } else b.electrical = attached(b.electrical, large.pin, across(a.electrical), 0, trap);
      } else if (a.nodes.length === 2 && between) {
        b.electrical = attached(b.electrical, large.pin, a.electrical, small.pin, trap);
        b.nodes[large.pin] = a.nodes[1 - small.pin];
      } else continue;
      all[small.part] = undefined;
      stale.add(small.part).add(large.part);
      joined = true;
    }
    return joined;
  };
  while (round());
  const left = all.filter((p) => p !== undefined && p.nodes.length > 0) as Joined[];
  return {
    network: { parts: left, ports },
    trapped: () => {
      const was = trap.sprung;
      trap.sprung = false;
      return was;
    },
  };
}
