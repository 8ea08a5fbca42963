import DxfParser, { type IDxf, type IEntity, type IPoint } from 'dxf-parser';
import { DrawingError, type Drawing } from './contract';
import {
  arcPoints,
  bulged,
  circle,
  closedWays,
  cutOpen,
  nested,
  type Ring,
  type Point,
} from '../../polygons';

/** Units of a drawing by their number in its header, m. */
const UNITS: Readonly<Record<number, number>> = {
  1: 25.4e-3,
  2: 0.3048,
  4: 1e-3,
  5: 1e-2,
  6: 1,
  8: 25.4e-9,
  9: 25.4e-6,
  13: 1e-6,
};

/** From an entity's own coordinates to the drawing's, m. */
type Placing = (p: { readonly x: number; readonly y: number }) => Point;

interface Vertex extends IPoint {
  readonly bulge?: number;
}
/** What the parser says of the entities that are read here. */
interface Drawn extends IEntity {
  readonly vertices?: readonly Vertex[];
  readonly shape?: boolean;
  readonly points?: readonly IPoint[];
  readonly center?: IPoint;
  readonly radius?: number;
  readonly startAngle?: number;
  readonly endAngle?: number;
  readonly majorAxisEndPoint?: IPoint;
  readonly axisRatio?: number;
  readonly position?: IPoint;
  readonly name?: string;
  readonly xScale?: number;
  readonly yScale?: number;
  readonly rotation?: number;
}

/** Entities that draw no copper and are passed over without a word. */
const SILENT: ReadonlySet<string> = new Set([
  'TEXT',
  'MTEXT',
  'DIMENSION',
  'POINT',
  'ATTDEF',
  'VIEWPORT',
  'ATTRIB',
]);

/** Reads closed outlines by layer: polylines with arcs, circles, ellipses, solids, lines and arcs that meet, blocks. @throws DrawingError */
export function readDxf(text: string, chord: number): Drawing {
  let file: IDxf | null;
  try {
    file = new DxfParser().parseSync(text);
  } catch (error) {
    throw new DrawingError(
      `it cannot be read as DXF: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  if (!file) throw new DrawingError('it cannot be read as DXF');
  const notes: string[] = [];
  const given = Number(file.header?.$INSUNITS ?? 0);
  const unit = UNITS[given];
  if (unit === undefined) notes.push('the file does not say its unit: taken as millimetres');
  const scale = unit ?? 1e-3;
  const closed = new Map<string, Ring[]>();
  const lines = new Map<string, Ring[]>();
  const leftOut = new Map<string, number>();
  const put = (into: Map<string, Ring[]>, layer: string, ring: Ring) =>
    into.set(layer, [...(into.get(layer) ?? []), ring]);

  const take = (
    entities: readonly IEntity[],
    place: Placing,
    size: number,
    inLayer?: string,
    depth = 0,
  ): void => {
    for (const entity of entities as readonly Drawn[]) {
      const layer = entity.layer === '0' && inLayer !== undefined ? inLayer : (entity.layer ?? '0');
      const fine = chord / size;
      /** Points in the entity's own coordinates. */
      const own = (p: { x: number; y: number }): Point => [p.x, p.y];
      const placed = (ring: Ring): Ring => ring.map(([x, y]) => place({ x, y }));
      switch (entity.type) {
        case 'LWPOLYLINE':
        case 'POLYLINE': {
          const corners = entity.vertices ?? [];
          if (corners.length < 2) break;
          const ends = entity.shape ? corners.length : corners.length - 1;
          const ring: Point[] = [own(corners[0])];
          for (let i = 0; i < ends; i++)
            ring.push(
              ...bulged(own(corners[i]), own(corners[(i + 1) % corners.length]), corners[i].bulge ?? 0, fine),
            );
          if (entity.shape) put(closed, layer, placed(ring.slice(0, -1)));
          else put(lines, layer, placed(ring));
          break;
        }
        case 'LINE':
          if (entity.vertices?.length === 2) put(lines, layer, placed(entity.vertices.map(own)));
          break;
        case 'ARC': {
          const { center, radius = 0, startAngle = 0, endAngle = 0 } = entity;
          if (!center || radius <= 0) break;
          let sweep = endAngle - startAngle;
          while (sweep <= 0) sweep += 2 * Math.PI;
          const first: Point = [
            center.x + radius * Math.cos(startAngle),
            center.y + radius * Math.sin(startAngle),
          ];
          put(lines, layer, placed([first, ...arcPoints(own(center), radius, startAngle, sweep, fine)]));
          break;
        }
        case 'CIRCLE':
          if (entity.center && entity.radius)
            put(closed, layer, placed(circle(own(entity.center), entity.radius, fine)));
          break;
        case 'ELLIPSE': {
          const {
            center,
            majorAxisEndPoint: axis,
            axisRatio = 1,
            startAngle = 0,
            endAngle = 2 * Math.PI,
          } = entity;
          if (!center || !axis) break;
          const long = Math.hypot(axis.x, axis.y);
          let sweep = endAngle - startAngle;
          while (sweep <= 1e-9) sweep += 2 * Math.PI;
          const whole = sweep > 2 * Math.PI - 1e-6;
          const around: Ring = [
            [long * Math.cos(startAngle), long * Math.sin(startAngle)],
            ...arcPoints([0, 0], long, startAngle, sweep, fine),
          ];
          const [cos, sin] = [axis.x / long, axis.y / long];
          const ring = around.map(([x, y]): Point => [
            center.x + x * cos - y * axisRatio * sin,
            center.y + x * sin + y * axisRatio * cos,
          ]);
          put(whole ? closed : lines, layer, placed(whole ? ring.slice(0, -1) : ring));
          break;
        }
        case 'SOLID': {
          const [a, b, c, d] = entity.points ?? [];
          // Its third and fourth corners stand crosswise.
          if (a && b && c) put(closed, layer, placed((d ? [a, b, d, c] : [a, b, c]).map(own)));
          break;
        }
        case 'INSERT': {
          const block = entity.name === undefined ? undefined : file.blocks?.[entity.name];
          if (!block?.entities || depth > 8) break;
          const { position, xScale = 1, yScale = 1, rotation = 0 } = entity;
          const angle = (rotation * Math.PI) / 180;
          const base = block.position ?? { x: 0, y: 0 };
          take(
            block.entities,
            ({ x, y }) => {
              const [u, v] = [(x - base.x) * xScale, (y - base.y) * yScale];
              return place({
                x: (position?.x ?? 0) + u * Math.cos(angle) - v * Math.sin(angle),
                y: (position?.y ?? 0) + u * Math.sin(angle) + v * Math.cos(angle),
              });
            },
            size * Math.max(Math.abs(xScale), Math.abs(yScale)),
            layer,
            depth + 1,
          );
          break;
        }
        default:
          if (!SILENT.has(entity.type)) leftOut.set(entity.type, (leftOut.get(entity.type) ?? 0) + 1);
      }
    }
  };
  take(file.entities, ({ x, y }) => [x * scale, y * scale], scale);

  for (const [layer, ways] of lines) {
    const { rings, open } = closedWays(ways);
    for (const ring of rings) put(closed, layer, ring);
    if (open > 0)
      notes.push(`${open} ${open > 1 ? 'lines do' : 'line does'} not close on layer ${layer}: left out`);
  }
  for (const [type, count] of leftOut) notes.push(`${count} of ${type}: left out, only outlines are read`);
  const layers = [...closed]
    .map(([name, rings]) => ({ name, outlines: cutOpen(nested(rings)) }))
    .filter((l) => l.outlines.length > 0);
  return { kind: 'DXF', layers, chord, notes };
}
