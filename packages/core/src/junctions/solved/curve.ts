import { share, type Steps } from '../../numeric';
import { layersOf, prepareSteps, type Copper, type CopperPort, type Layers, type Point } from '../../planar';
import { countedOf, numbersOf, reachOf, returningOf } from '../curve';
import { tightness } from '../contract';
import { feedOf, HEIGHT, NEAR, roomIn } from './copper';
import type { Asked } from '.';

/** Straight sides of an arc, for so much of its angle, rad. */
const SIDE = Math.PI / 60;

/** A turn that leaves both straight pieces along the axes. */
const QUARTER = Math.PI / 2;

/**
 * An arc of a line with a straight piece at both ends, which is its own image; dimensions in m, the angle in rad.
 * @param housed a quarter turn whose lines go on to side walls
 */
export function curveCopper(
  [width, radius]: readonly number[],
  angle: number,
  layers: Layers,
  housed: boolean,
): Copper {
  // What is told of a curve is what several arcs differ by; farther lines would tell up to 0.005 in S more of it.
  const feed = feedOf(layers, width, housed, NEAR);
  const count = 2 * Math.ceil(angle / 2 / SIDE);
  // From where the line comes down out of the left, or straight down from above.
  const first = housed ? QUARTER : (Math.PI - angle) / 2;
  /** Across the line: a share of the arc on, and so far along the straight piece beyond its end. */
  const across = (part: number, beyond: number): [Point, Point] => {
    const turned = first + part * angle;
    const [c, s] = [Math.cos(turned), Math.sin(turned)];
    const way = part < 0.5 ? -beyond : beyond;
    const at = (r: number): Point => [-r * c + way * s, -r * s - way * c];
    return [at(radius - width / 2), at(radius + width / 2)];
  };
  const sides = [
    across(0, feed),
    ...Array.from({ length: count + 1 }, (_, i) => across(i / count, 0)),
    across(1, feed),
  ];
  const [xs, ys] = [0, 1].map((k) => sides.flat().map((p) => p[k]));
  const room = roomIn(layers);
  return {
    layers,
    metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
    polygons: sides.slice(1).map((b, i): Point[] => [sides[i][0], sides[i][1], b[1], b[0]]),
    ports: [sides[0], sides[sides.length - 1]].map((edge, i): CopperPort => ({
      number: i + 1,
      edge,
      plane: feed,
      z0: 50,
    })),
    ...(housed && {
      walls: {
        x0: Math.min(...xs),
        x1: Math.max(...xs) + room,
        y0: Math.min(...ys) - room,
        y1: Math.max(...ys),
      },
    }),
  };
}

/** Arcs that are solved beside the quarter turn: their lengths over hypot(width, height), and the most that each turns, rad. */
const ARCS = [
  { length: 1.5, most: 0.55 },
  { length: 3, most: 1 },
  { length: 6.5, most: 1.95 },
];

/** Least squares of two unknowns. @param rows what each of them adds, and what is to come out */
function fitted(rows: readonly (readonly [number, number, number])[]): [number, number] {
  const sum = (of: (row: readonly [number, number, number]) => number) =>
    rows.reduce((all, row) => all + of(row), 0);
  const [aa, ab, bb] = [sum(([a]) => a * a), sum(([a, b]) => a * b), sum(([, b]) => b * b)];
  const [ay, by] = [sum(([a, , y]) => a * y), sum(([, b, y]) => b * y)];
  const d = aa * bb - ab * ab;
  return [(bb * ay - ab * by) / d, (aa * by - ab * ay) / d];
}

/** What is seen of an arc at a frequency: by which the two parts of what curving does are multiplied, and what comes out. */
type Seen = Readonly<
  Record<'shorter' | 'returned' | 'alike' | 'opposite', readonly [number, number, number]>
>;

/**
 * What curving does to a line, at each frequency, over how tight it is, in the order of a table's numbers: that of which arcs of
 * some angles are made (least squares). In a housing only a quarter turn's lines can go on to the walls: both parts change alike.
 */
export function* curveSteps({ medium, board, dimensions, housed, freq, accuracy }: Asked): Steps<number[][]> {
  const [width, radius] = dimensions;
  const reach = reachOf(width, HEIGHT);
  const band = { start: freq[0], stop: freq[freq.length - 1] };
  /** Of each frequency what an arc is seen to do. */
  function* seenSteps(arc: number, layers: Layers, isHoused: boolean): Steps<Seen[]> {
    const copper = curveCopper(dimensions, arc / radius, layers, isHoused);
    const prepared = yield* prepareSteps(copper, band, accuracy);
    return freq.map((f) => {
      const { beta } = prepared.lines(f)[0];
      const { re, im } = prepared.own(f);
      const counted = countedOf(arc, reach);
      // Waves that come from both ends alike, and opposite ones.
      const [alike, opposite] = [1, -1].map((sign) => {
        const [x, y] = [re[1] + sign * re[0], im[1] + sign * im[0]];
        const turn = Math.atan2(y, x) + beta * arc;
        return {
          turn: turn - 2 * Math.PI * Math.round(turn / (2 * Math.PI)),
          lost: -Math.log(Math.hypot(x, y)) * reach,
        };
      });
      return {
        shorter: [...counted, (alike.turn + opposite.turn) / (2 * beta)],
        returned: [...returningOf(arc, reach, beta), (alike.turn - opposite.turn) / 2],
        // What ports take for lost themselves is the same for all arcs.
        alike: [counted[1], 1, alike.lost],
        opposite: [counted[1], 1, opposite.lost],
      };
    });
  }
  const quarter = QUARTER * radius;
  const open = layersOf(medium, { ...board, ...(housed && { cover: Infinity }), tand: 0 });
  const turned = yield* share(seenSteps(quarter, open, false), 0, 0.2);
  const arcs = [turned];
  for (const [i, { length, most }] of ARCS.entries()) {
    const arc = Math.min(most * radius, length * Math.hypot(width, HEIGHT));
    arcs.push(yield* share(seenSteps(arc, open, false), 0.2 * (i + 1), 0.2 * (i + 2)));
  }
  const under = housed
    ? yield* share(seenSteps(quarter, layersOf(medium, { ...board, tand: 0 }), true), 0.8, 1)
    : turned;
  const over = tightness(width / HEIGHT, radius / HEIGHT);
  return freq.map((_, k) => {
    const partsOf = (of: keyof Seen): [number, number] => {
      const [near, far] = fitted(arcs.map((seen) => seen[k][of]));
      const change = housed ? under[k][of][2] / turned[k][of][2] : 1;
      return [near * change, far * change];
    };
    return numbersOf({
      shorter: partsOf('shorter'),
      returned: partsOf('returned'),
      lost: housed ? [0, 0] : [partsOf('alike')[0], partsOf('opposite')[0]],
    }).map((x) => x / over);
  });
}
