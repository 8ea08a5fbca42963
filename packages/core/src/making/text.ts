import { boxOf, type Ring } from '../polygons';
import { mm } from './mm';
import type { BoardPlan } from './board';

/** Layers of a board's drawing, and their numbers where a format has numbers. */
export const LAYERS = { COPPER: 1, OUTLINE: 2, DRILL: 3, TEXT: 4 } as const;

/** Copper of a plan as paths of an SVG, or of anything that reads `M x y L x y Z`. @param high the board's height, m */
const path = (ring: Ring, high: number): string =>
  `M${ring.map(([x, y]) => `${mm(x)} ${mm(high - y)}`).join('L')}Z`;

const escaped = (text: string): string =>
  text.replace(/[<>&"]/g, (c) => ({ '<': '&lt;', '>': '&gt;', '&': '&amp;', '"': '&quot;' })[c]!);

/** What is said of curves in a file. */
const curves = ({ chord }: Pick<BoardPlan, 'chord'>): string =>
  `Curves are straight sides, off by at most ${Number((chord * 1e6).toPrecision(3))} um`;

/** The board as an SVG drawing at scale 1. */
export function writeBoardSvg(plan: BoardPlan): string {
  const { name, copper, board, holes, words } = plan;
  const { x1: wide, y1: high } = boxOf(board);
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<svg xmlns="http://www.w3.org/2000/svg" width="${mm(wide)}mm" height="${mm(high)}mm" viewBox="0 0 ${mm(wide)} ${mm(high)}">`,
    `<title>${escaped(name)}</title>`,
    `<desc>${curves(plan)}</desc>`,
    `<g id="outline" fill="none" stroke="#000" stroke-width="0.05"><path d="${path(board, high)}"/></g>`,
    '<g id="copper" fill="#b87333" stroke="none">',
    ...copper.map((ring) => `<path d="${path(ring, high)}"/>`),
    '</g>',
    '<g id="drill" fill="#fff" stroke="#000" stroke-width="0.05">',
    ...holes.map((h) => `<circle cx="${mm(h.x)}" cy="${mm(high - h.y)}" r="${mm(h.diameter / 2)}"/>`),
    '</g>',
    '<g id="text" font-family="sans-serif" fill="#000">',
    ...words.map(
      (w) =>
        `<text x="${mm(w.x)}" y="${mm(high - w.y)}" font-size="${mm(w.height)}">${escaped(w.text)}</text>`,
    ),
    '</g>',
    '</svg>',
    '',
  ].join('\n');
}

/** The board as DXF (R2000 entities in mm): closed polylines on named layers. */
export function writeBoardDxf(plan: BoardPlan): string {
  const { copper, board, holes, words } = plan;
  const lines: (string | number)[] = [];
  const put = (...pairs: readonly (string | number)[]) => lines.push(...pairs);
  put(999, curves(plan));
  put(0, 'SECTION', 2, 'HEADER', 9, '$ACADVER', 1, 'AC1015', 9, '$INSUNITS', 70, 4, 0, 'ENDSEC');
  put(0, 'SECTION', 2, 'TABLES', 0, 'TABLE', 2, 'LAYER', 70, Object.keys(LAYERS).length);
  for (const [layer, number] of Object.entries(LAYERS))
    put(0, 'LAYER', 2, layer, 70, 0, 62, number, 6, 'CONTINUOUS');
  put(0, 'ENDTAB', 0, 'ENDSEC', 0, 'SECTION', 2, 'ENTITIES');
  const closed = (layer: string, ring: Ring) => {
    put(0, 'LWPOLYLINE', 100, 'AcDbEntity', 8, layer, 100, 'AcDbPolyline', 90, ring.length, 70, 1);
    for (const [x, y] of ring) put(10, mm(x), 20, mm(y));
  };
  for (const ring of copper) closed('COPPER', ring);
  closed('OUTLINE', board);
  for (const { x, y, diameter } of holes)
    put(
      0,
      'CIRCLE',
      100,
      'AcDbEntity',
      8,
      'DRILL',
      100,
      'AcDbCircle',
      10,
      mm(x),
      20,
      mm(y),
      40,
      mm(diameter / 2),
    );
  for (const { x, y, height, text } of words)
    put(
      0,
      'TEXT',
      100,
      'AcDbEntity',
      8,
      'TEXT',
      100,
      'AcDbText',
      10,
      mm(x),
      20,
      mm(y),
      40,
      mm(height),
      1,
      text,
    );
  put(0, 'ENDSEC', 0, 'EOF');
  return `${lines.join('\n')}\n`;
}

/** Plated holes as an Excellon drill file (metric, decimal points). */
export function writeDrill({ holes }: BoardPlan): string {
  const sizes = [...new Set(holes.map((h) => mm(h.diameter)))].sort((a, b) => Number(a) - Number(b));
  return [
    'M48',
    'METRIC',
    ...sizes.map((size, i) => `T${String(i + 1).padStart(2, '0')}C${size}`),
    'M95',
    'G90',
    'G05',
    ...sizes.flatMap((size, i) => [
      `T${String(i + 1).padStart(2, '0')}`,
      ...holes
        .filter((h) => mm(h.diameter) === size)
        .map((h) => `X${(h.x * 1e3).toFixed(4)}Y${(h.y * 1e3).toFixed(4)}`),
    ]),
    'M30',
    '',
  ].join('\n');
}

/** Gerber X2 of one layer, mm with six decimals. */
function gerber(attributes: readonly string[], body: readonly string[]): string {
  return [
    '%TF.GenerationSoftware,Ditch,Ditch,0.1.0*%',
    ...attributes.map((a) => `%TF.${a}*%`),
    '%FSLAX46Y46*%',
    '%MOMM*%',
    '%LPD*%',
    ...body,
    'M02*',
    '',
  ].join('\n');
}

const place = (x: number, y: number): string => `X${Math.round(x * 1e9)}Y${Math.round(y * 1e9)}`;

/** A closed region of a Gerber file. */
const region = (ring: Ring): string[] => [
  'G36*',
  'G01*',
  ...[...ring, ring[0]].map(([x, y], i) => `${place(x, y)}D0${i === 0 ? 2 : 1}*`),
  'G37*',
];

/** The files of a board by name: copper, the ground on the other side, outline and holes. */
export function writeGerber(plan: BoardPlan): Record<string, string> {
  const { copper, board, holes } = plan;
  const pads = holes.flatMap(({ x, y, pad }) => (pad === undefined ? [] : [{ x, y, diameter: pad }]));
  const sizes = [...new Set(pads.map((p) => mm(p.diameter)))];
  const flashes = sizes.flatMap((size, i) => [
    `D${11 + i}*`,
    ...pads.filter((p) => mm(p.diameter) === size).map((p) => `${place(p.x, p.y)}D03*`),
  ]);
  const apertures = sizes.map((size, i) => [
    '%TA.AperFunction,ViaPad*%',
    `%ADD${11 + i}C,${size}*%`,
    '%TD*%',
  ]);
  const rim = [...board, board[0]].map(([x, y], i) => `${place(x, y)}D0${i === 0 ? 2 : 1}*`);
  return {
    'copper-top.gbr': gerber(
      ['FileFunction,Copper,L1,Top', 'FilePolarity,Positive', 'Part,Single'],
      [`G04 ${curves(plan)}*`, ...apertures.flat(), ...copper.flatMap(region), ...flashes],
    ),
    'ground.gbr': gerber(
      ['FileFunction,Copper,L2,Bot', 'FilePolarity,Positive', 'Part,Single'],
      region(board),
    ),
    'outline.gbr': gerber(
      ['FileFunction,Profile,NP', 'FilePolarity,Positive', 'Part,Single'],
      ['%TA.AperFunction,Profile*%', '%ADD10C,0.05*%', '%TD*%', 'D10*', 'G01*', ...rim],
    ),
    'drill.drl': writeDrill(plan),
  };
}
