import { createParser, type ChildNode, type ToolShape } from '@tracespace/parser';
import { DrawingError, type Drawing } from './contract';
import {
  areaOf,
  arcPoints,
  changed,
  circle,
  cutOpen,
  swept,
  type Area,
  type Ring,
  type Point,
} from '../../polygons';

/** The axis' number as a Gerber file writes it: digits without a point. */
function numberOf(
  text: string,
  [whole, decimals]: readonly [number, number],
  zeroes: 'leading' | 'trailing',
): number {
  if (text.includes('.')) return Number(text);
  const sign = text.startsWith('-') ? -1 : 1;
  const digits = text.replace(/^[+-]/, '');
  const all = zeroes === 'trailing' ? digits.padEnd(whole + decimals, '0') : digits;
  return (sign * Number(all)) / 10 ** decimals;
}

/** An aperture's outlines around the origin, in the file's unit. */
function outlinesOfTool(shape: ToolShape, fine: number): readonly Ring[] {
  const box = (x: number, y: number): Ring => [
    [-x / 2, -y / 2],
    [x / 2, -y / 2],
    [x / 2, y / 2],
    [-x / 2, y / 2],
  ];
  switch (shape.type) {
    case 'circle':
      return shape.diameter > 0 ? [circle([0, 0], shape.diameter / 2, fine)] : [];
    case 'rectangle':
      return [box(shape.xSize, shape.ySize)];
    case 'obround': {
      const { xSize, ySize } = shape;
      const reach = (xSize - ySize) / 2;
      return [
        reach > 0
          ? swept([-reach, 0], [reach, 0], ySize / 2, fine)
          : swept([0, reach], [0, -reach], xSize / 2, fine),
      ];
    }
    case 'polygon': {
      const turned = ((shape.rotation ?? 0) * Math.PI) / 180;
      return [
        Array.from({ length: shape.vertices }, (_, i): Point => {
          const a = turned + (2 * Math.PI * i) / shape.vertices;
          return [(shape.diameter / 2) * Math.cos(a), (shape.diameter / 2) * Math.sin(a)];
        }),
      ];
    }
    case 'macroShape':
      throw new DrawingError(
        `it uses the aperture macro ${shape.name}, which is not read; save the copper as regions`,
      );
  }
}

/** Outline of points around which a convex shape is dragged from one place to the other. */
function dragged(shape: Ring, a: Point, b: Point): Ring {
  const points = shape.flatMap(([x, y]): Point[] => [
    [a[0] + x, a[1] + y],
    [b[0] + x, b[1] + y],
  ]);
  // The hull of both, by its lower and its upper side.
  const sorted = points.sort((p, q) => p[0] - q[0] || p[1] - q[1]);
  const side = (from: readonly Point[]) => {
    const kept: Point[] = [];
    for (const p of from) {
      while (kept.length > 1 && areaOf([kept[kept.length - 2], kept[kept.length - 1], p]) <= 0) kept.pop();
      kept.push(p);
    }
    return kept.slice(0, -1);
  };
  return [...side(sorted), ...side([...sorted].reverse())];
}

/** Reads the copper of a Gerber layer: regions, flashes and strokes, dark and clear. @throws DrawingError */
export function readGerber(text: string, chord: number): Drawing {
  const parser = createParser();
  parser.feed(text);
  const { filetype, children } = parser.results();
  if (filetype !== 'gerber') throw new DrawingError('it cannot be read as Gerber');
  const notes: string[] = [];
  let unit: number | undefined;
  let format: readonly [number, number] | undefined;
  let zeroes: 'leading' | 'trailing' = 'leading';
  const tools = new Map<string, ToolShape>();
  let tool: string | undefined;
  let at: Point = [0, 0];
  let mode: 'line' | 'cwArc' | 'ccwArc' = 'line';
  let single = false;
  let inRegion = false;
  let clear = false;
  let contour: Point[] = [];
  let area: Area = [];
  /** What was drawn in one polarity, put together at once. */
  let waiting: Ring[] = [];
  const settle = () => {
    area = changed(area, waiting, clear);
    waiting = [];
  };
  const draw = (ring: Ring) => waiting.push(ring.map(([x, y]): Point => [x * unit!, y * unit!]));
  const closeContour = () => {
    if (contour.length > 2) draw(contour);
    contour = [];
  };

  /** Points of a way after its first. */
  const way = (to: Point, i: number, j: number): Point[] => {
    const fine = chord / unit!;
    if (mode === 'line') return [to];
    const turn = mode === 'cwArc' ? -1 : 1;
    const candidates: Point[] = single
      ? [1, -1].flatMap((p) => [1, -1].map((q): Point => [at[0] + p * Math.abs(i), at[1] + q * Math.abs(j)]))
      : [[at[0] + i, at[1] + j]];
    const sweepAround = ([cx, cy]: Point) => {
      const from = Math.atan2(at[1] - cy, at[0] - cx);
      let sweep = turn * (Math.atan2(to[1] - cy, to[0] - cx) - from);
      while (sweep <= 1e-9) sweep += 2 * Math.PI;
      if (single && sweep > 2 * Math.PI - 1e-6) sweep = 0;
      return { from, sweep };
    };
    // In quarters the signs are left out: the centre is where both ends are as far and the arc is a quarter at most.
    const miss = (c: Point) =>
      Math.abs(Math.hypot(at[0] - c[0], at[1] - c[1]) - Math.hypot(to[0] - c[0], to[1] - c[1])) +
      (single && sweepAround(c).sweep > Math.PI / 2 + 1e-6 ? 1e9 : 0);
    const centre = candidates.reduce((best, c) => (miss(c) < miss(best) ? c : best));
    const { from, sweep } = sweepAround(centre);
    const radius = Math.hypot(at[0] - centre[0], at[1] - centre[1]);
    return radius === 0 || sweep === 0
      ? [to]
      : [...arcPoints(centre, radius, from, turn * sweep, fine).slice(0, -1), to];
  };

  const graphic = (node: Extract<ChildNode, { type: 'graphic' }>) => {
    if (unit === undefined || format === undefined)
      throw new DrawingError('it draws before it says its unit and format');
    const read = (axis: string) => {
      const digits = node.coordinates[axis];
      return digits === undefined ? undefined : numberOf(digits, format!, zeroes);
    };
    const to: Point = [read('x') ?? at[0], read('y') ?? at[1]];
    if (node.graphic === 'move') {
      if (inRegion) closeContour();
      at = to;
      return;
    }
    if (node.graphic === 'segment') {
      const points = way(to, read('i') ?? 0, read('j') ?? 0);
      if (inRegion) contour.push(...(contour.length === 0 ? [at] : []), ...points);
      else {
        const shape = tool === undefined ? undefined : tools.get(tool);
        if (!shape) throw new DrawingError('it draws with an aperture that it does not define');
        let from = at;
        for (const p of points) {
          if (shape.type === 'circle') {
            if (shape.diameter > 0) draw(swept(from, p, shape.diameter / 2, chord / unit));
          } else for (const ring of outlinesOfTool(shape, chord / unit)) draw(dragged(ring, from, p));
          from = p;
        }
      }
    } else if (node.graphic === 'shape') {
      const shape = tool === undefined ? undefined : tools.get(tool);
      if (!shape) throw new DrawingError('it flashes an aperture that it does not define');
      for (const ring of outlinesOfTool(shape, chord / unit))
        draw(ring.map(([x, y]): Point => [to[0] + x, to[1] + y]));
    }
    at = to;
  };

  for (const node of children)
    switch (node.type) {
      case 'units':
        unit = node.units === 'in' ? 25.4e-3 : 1e-3;
        break;
      case 'coordinateFormat':
        if (node.mode === 'incremental') throw new DrawingError('incremental coordinates are not read');
        if (node.format) format = node.format;
        if (node.zeroSuppression) zeroes = node.zeroSuppression;
        break;
      case 'toolDefinition':
        tools.set(node.code, node.shape);
        if (node.hole) notes.push(`the hole of aperture ${node.code} is left out`);
        break;
      case 'toolChange':
        tool = node.code;
        break;
      case 'interpolateMode':
        if (node.mode === 'line' || node.mode === 'cwArc' || node.mode === 'ccwArc') mode = node.mode;
        break;
      case 'quadrantMode':
        single = node.quadrant === 'single';
        break;
      case 'regionMode':
        closeContour();
        inRegion = node.region;
        break;
      case 'loadPolarity':
        settle();
        clear = node.polarity === 'clear';
        break;
      case 'stepRepeat':
        if (Object.values(node.stepRepeat).some((n) => n > 1))
          throw new DrawingError('repeated steps are not read');
        break;
      case 'graphic':
        graphic(node);
        break;
    }
  closeContour();
  settle();
  const outlines = cutOpen(area);
  return { kind: 'Gerber', layers: outlines.length > 0 ? [{ name: 'copper', outlines }] : [], chord, notes };
}
