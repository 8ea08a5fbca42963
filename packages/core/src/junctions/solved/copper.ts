import type { Copper, CopperPort, Layers, Point } from '../../planar';
import type { JunctionKind, PairEnd } from '../contract';

/** Height over the nearest ground of the board that stands for all, m: tables know lengths in heights only. */
export const HEIGHT = 1e-3;

/** Line between a junction and its ports, in heights and in widths. */
export interface Feed {
  readonly heights: number;
  readonly widths: number;
}

/** So far, where planes above and below or side walls shut them in, only the lines' own waves reach. */
export const NEAR: Feed = { heights: 2.5, widths: 1 };

/**
 * On an open board what a line lacks behind a junction is felt along it as a dipole's field is, by the square of the distance: the
 * charge of an end that a line so long leaves out goes as 1/length. At 2.5 heights it was 7 % of a gap's capacitance.
 */
const FAR: Feed = { heights: 10, widths: 1.5 };

export const box = (x0: number, y0: number, x1: number, y1: number): Point[] => [
  [x0, y0],
  [x1, y0],
  [x1, y1],
  [x0, y1],
];

/** An arm of copper that leaves the junction in a direction, from `from` to `to` along it. */
interface Arm {
  /** One of the four, or an angle from the right, rad. */
  readonly direction: 'left' | 'right' | 'up' | 'down' | number;
  readonly width: number;
  /** Where along it the copper begins, and where its reference plane lies, both from the middle, m. */
  readonly from: number;
  readonly plane: number;
  /** Where the copper of the junction itself ends. */
  readonly edge: number;
}

/** Room between ground and lid below which side walls stand around a junction, and their distance, in that room. */
const HOUSED = { below: 6, distance: 1.4 } as const;

/** Whether planes are so far apart that what a line lacks is felt far along it. */
const isOpen = ({ below, above }: Layers): boolean =>
  below.height + above.height >= HOUSED.below * Math.min(below.height, above.height);

/** Width from the copper to its side walls, m, where it has any. */
export const roomIn = ({ below, above }: Layers): number => HOUSED.distance * (below.height + above.height);

/** Length of line in front of a port, m. @param housed with side walls, of which only the lines know at the ports */
export const feedOf = (
  layers: Layers,
  width: number,
  housed: boolean,
  { heights, widths } = isOpen(layers) ? FAR : NEAR,
): number =>
  Math.max(
    heights * Math.min(layers.below.height, layers.above.height),
    widths * width,
    // A port at a wall asks for more of a wide line.
    housed ? Math.max(roomIn(layers), 1.2 * width) : 0,
  );

/** Junctions that are solved each by itself. */
export type SingleJunction = Exclude<JunctionKind, PairEnd | 'curve'>;

/**
 * The junction's copper with a line at each pin, dimensions in m.
 * @param housed with side walls: under a low lid a line open to its sides excites what travels between ground and lid, and
 * only walls make it a line
 */
export function junctionCopper(
  kind: SingleJunction,
  d: readonly number[],
  layers: Layers,
  housed = false,
  feed?: Feed,
): Copper {
  const arm = (direction: Arm['direction'], width: number, edge: number, more: Partial<Arm> = {}): Arm => ({
    direction,
    width,
    from: 0,
    plane: 0,
    edge,
    ...more,
  });
  const extra: Point[][] = [];
  const arms = ((): Arm[] => {
    switch (kind) {
      case 'open-end':
        return [arm('left', d[0], 0)];
      case 'gap':
        return [
          arm('left', d[0], d[2] / 2, { from: d[2] / 2, plane: d[2] / 2 }),
          arm('right', d[1], d[2] / 2, { from: d[2] / 2, plane: d[2] / 2 }),
        ];
      case 'step':
        return [arm('left', d[0], 0), arm('right', d[1], 0)];
      case 'square-bend':
      case 'mitred-bend': {
        const h = d[0] / 2;
        extra.push(
          kind === 'square-bend'
            ? box(-h, -h, h, h)
            : [
                [-h, -h],
                [h, h],
                [-h, h],
              ],
        );
        return [arm('left', d[0], h, { from: h }), arm('up', d[0], h, { from: h })];
      }
      case 'square-corner':
      case 'mitred-corner': {
        // Both arms rise to the sides, so that the corner is its own image across the upright axis.
        const [h, half] = [d[0] / 2, (d[1] * Math.PI) / 4];
        const [c, s] = [Math.cos(half), Math.sin(half)];
        const reach = (h * s) / c;
        const [x, y] = [reach * c + h * s, reach * s - h * c];
        const outer: Point[] = kind === 'square-corner' ? [[0, -h / c]] : [];
        extra.push([[-x, y], ...outer, [x, y], [0, h / c]]);
        return [arm(Math.PI - half, d[0], reach, { from: reach }), arm(half, d[0], reach, { from: reach })];
      }
      case 'tee':
        return [
          arm('left', d[0], d[2] / 2),
          arm('right', d[1], d[2] / 2),
          arm('up', d[2], Math.max(d[0], d[1]) / 2),
        ];
      case 'cross': {
        const most = Math.max(d[1], d[2]) / 2;
        return [
          arm('left', d[0], most),
          arm('right', d[0], most),
          arm('up', d[1], d[0] / 2),
          arm('down', d[2], d[0] / 2),
        ];
      }
    }
  })();
  const room = roomIn(layers);
  const ports: CopperPort[] = [];
  const ends = new Map<Arm['direction'], number>();
  const polygons = arms.map(({ direction, width, from, edge, plane }, i) => {
    const far = edge + feedOf(layers, width, housed, feed);
    ends.set(direction, far);
    const turn = (x: number, y: number): Point =>
      typeof direction === 'number'
        ? [
            x * Math.cos(direction) - y * Math.sin(direction),
            x * Math.sin(direction) + y * Math.cos(direction),
          ]
        : direction === 'right'
          ? [x, y]
          : direction === 'left'
            ? [-x, -y]
            : direction === 'up'
              ? [-y, x]
              : [y, -x];
    const h = width / 2;
    ports.push({ number: i + 1, edge: [turn(far, -h), turn(far, h)], plane: far - plane, z0: 50 });
    return [turn(from, -h), turn(far, -h), turn(far, h), turn(from, h)];
  });
  const all = [...polygons, ...extra].flat();
  const [xs, ys] = [0, 1].map((k) => all.map((p) => p[k]));
  const walls = housed && {
    x0: ends.has('left') ? -ends.get('left')! : Math.min(...xs) - room,
    x1: ends.get('right') ?? Math.max(...xs) + room,
    y0: ends.has('down') ? -ends.get('down')! : Math.min(...ys) - room,
    y1: ends.get('up') ?? Math.max(...ys) + room,
  };
  return {
    layers,
    metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
    polygons: [...polygons, ...extra],
    ports,
    ...(walls && { walls }),
  };
}

/** Whether a lid at a place of the table is so low that side walls stand around. @param lid height over its distance */
export const isHoused = (lid: number): boolean => lid > 0 && 1 + 1 / lid < HOUSED.below;
