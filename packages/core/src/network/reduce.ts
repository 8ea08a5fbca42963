import { across, attached, closed, type Electrical, type Trap } from '../electrical';
import { GROUND, type Network } from './joined';

/** One joining: what is done at a pin of a part, and with which other part. */
type Joining =
  | { readonly how: 'short' | 'open'; readonly part: number; readonly pin: number }
  | { readonly how: 'close' | 'across'; readonly part: number; readonly pin: number; readonly by: number }
  | {
      readonly how: 'attach';
      readonly part: number;
      readonly pin: number;
      readonly by: number;
      readonly byPin: number;
    };

/** What is joined one after the other, and the parts that are left with their nodes. */
interface Plan {
  readonly joinings: readonly Joining[];
  readonly left: readonly { readonly part: number; readonly nodes: readonly string[] }[];
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

/** Looks for what can be joined; nothing but nodes matters. */
function planOf(parts: readonly (readonly string[])[], atPort: ReadonlySet<string>): Plan {
  const joinings: Joining[] = [];
  /** Nodes at the pins of each part; undefined once it is part of another. */
  const all: (string[] | undefined)[] = parts.map((nodes) => [...nodes]);
  /** Pins at each node. */
  const here = new Map<string, { part: number; pin: number }[]>();
  const list = () => {
    here.clear();
    all.forEach((nodes, part) =>
      nodes?.forEach((node, pin) => {
        const pins = here.get(node);
        if (pins) pins.push({ part, pin });
        else here.set(node, [{ part, pin }]);
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
    const ended = (part: number, pin: number, how: 'short' | 'open'): boolean => {
      const nodes = all[part]!;
      if (stale.has(part) || nodes.length < 2) return false;
      joinings.push({ how, part, pin });
      nodes.splice(pin, 1);
      stale.add(part);
      return true;
    };
    for (const [node, pins] of here) {
      if (pins.some((p) => stale.has(p.part))) {
        joined = true;
        continue;
      }
      if (node === GROUND) {
        for (const { part, pin } of pins) joined = ended(part, pin, 'short') || joined;
        continue;
      }
      if (pins.length === 1 && !atPort.has(node)) {
        joined = ended(pins[0].part, pins[0].pin, 'open') || joined;
        continue;
      }
      const own = new Set(pins.map((p) => p.part));
      if (own.size < pins.length || own.size < 2) continue;
      const byPins = [...pins].sort((a, b) => all[a.part]!.length - all[b.part]!.length);
      const [small, large] = byPins;
      const a = all[small.part]!;
      const b = all[large.part]!;
      if (b.length > MOST_PINS) continue;
      const between = pins.length === 2 && !atPort.has(node);
      const { part, pin } = large;
      const by = small.part;
      if (a.length === 1) {
        // What else stands at the node stays there.
        joinings.push({ how: between ? 'close' : 'across', part, pin, by });
        if (between) b.splice(pin, 1);
      } else if (a.length === 2 && between) {
        joinings.push({ how: 'attach', part, pin, by, byPin: small.pin });
        b[pin] = a[1 - small.pin];
      } else continue;
      all[by] = undefined;
      stale.add(by).add(part);
      joined = true;
    }
    return joined;
  };
  while (round());
  return {
    joinings,
    left: all.flatMap((nodes, part) => (nodes && nodes.length > 0 ? [{ part, nodes }] : [])),
  };
}

/** Plans by the nodes that they are for: a design that is tuned or searched keeps them. */
const plans = new Map<string, Plan>();
const MOST_PLANS = 64;

/**
 * Takes together what can be taken together exactly, part by part: what has one pin closes the pin that it is joined to
 * or stands across the node that it hangs at, and what has two pins prolongs what it is joined to. A ladder, a cascade with
 * stubs, a tree becomes one part; of anything else its rings remain. Joining two parts costs a handful of products,
 * where a pin more in the system of equations costs an elimination.
 */
export function reduce({ parts, ports }: Network): Reduced {
  const trap: Trap = { sprung: false };
  const atPort = new Set(ports.map((p) => p.node));
  const key = JSON.stringify([parts.map((p) => p.nodes), [...atPort]]);
  let plan = plans.get(key);
  if (!plan) {
    if (plans.size >= MOST_PLANS) plans.clear();
    plans.set(
      key,
      (plan = planOf(
        parts.map((p) => p.nodes),
        atPort,
      )),
    );
  }
  const all = parts.map((p) => p.electrical);
  for (const joining of plan.joinings) {
    const { part, pin } = joining;
    const own = all[part];
    switch (joining.how) {
      case 'short':
      case 'open':
        all[part] = closed(own, pin, joining.how === 'short' ? short : open, trap);
        break;
      case 'close':
        all[part] = closed(own, pin, all[joining.by], trap);
        break;
      case 'across':
        all[part] = attached(own, pin, across(all[joining.by]), 0, trap);
        break;
      case 'attach':
        all[part] = attached(own, pin, all[joining.by], joining.byPin, trap);
    }
  }
  return {
    network: { parts: plan.left.map(({ part, nodes }) => ({ electrical: all[part], nodes })), ports },
    trapped: () => {
      const was = trap.sprung;
      trap.sprung = false;
      return was;
    },
  };
}
