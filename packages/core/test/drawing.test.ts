import { describe, expect, it } from 'vitest';
import { DrawingError, readDrawing, type Drawing } from '../src/formats/drawing';

/** Groups of a DXF file, each code with its value. */
const groups = (...pairs: readonly (readonly [number, string | number])[]): string =>
  pairs.map(([code, value]) => `${code}\n${value}\n`).join('');
const dxf = (entities: string, unit = 4, blocks = ''): string =>
  groups([0, 'SECTION'], [2, 'HEADER'], [9, '$INSUNITS'], [70, unit], [0, 'ENDSEC']) +
  (blocks && groups([0, 'SECTION'], [2, 'BLOCKS']) + blocks + groups([0, 'ENDSEC'])) +
  groups([0, 'SECTION'], [2, 'ENTITIES']) +
  entities +
  groups([0, 'ENDSEC'], [0, 'EOF']);
/** A closed polyline: x, y and bulge of each corner. */
const polyline = (corners: readonly (readonly [number, number, number?])[], layer = 'copper'): string =>
  groups([0, 'LWPOLYLINE'], [8, layer], [90, corners.length], [70, 1]) +
  corners.map(([x, y, bulge]) => groups([10, x], [20, y], ...(bulge ? [[42, bulge] as const] : []))).join('');
const box = (x: number, y: number, width: number, height: number): [number, number][] => [
  [x, y],
  [x + width, y],
  [x + width, y + height],
  [x, y + height],
];
const gerber = (body: string): string =>
  `G04 made up*\n%FSLAX36Y36*%\n%MOMM*%\n%ADD10C,0.5*%\n%ADD11R,2X1*%\n%ADD12O,3X1*%\n${body}M02*\n`;
const mm = (x: number) => String(Math.round(x * 1e6));
const to = (x: number, y: number, how: 1 | 2 | 3, more = '') => `X${mm(x)}Y${mm(y)}${more}D0${how}*\n`;

/** Square millimetres of a layer, whose outlines do not overlap. */
const areaOf = ({ layers }: Drawing, layer = 0): number =>
  layers[layer].outlines.reduce(
    (sum, ring) =>
      sum +
      ring.reduce((s, [x, y], i) => {
        const [u, v] = ring[(i + 1) % ring.length];
        return s + (x * v - u * y) / 2;
      }, 0),
    0,
  ) * 1e6;

describe('copper from DXF', () => {
  it('is read as outlines, arcs within two micrometres', () => {
    // A strip whose end is half a circle; the same by lines and an arc in any order and direction.
    const area = 10 + Math.PI / 8;
    const one = readDrawing(
      dxf(
        polyline([
          [0, 0],
          [10, 0, 1],
          [10, 1],
          [0, 1],
        ]),
      ),
    );
    expect(areaOf(one)).toBeLessThan(area);
    expect(areaOf(one)).toBeGreaterThan(area - 2e-3 * (Math.PI / 2));
    const line = (x: number, y: number, u: number, v: number) =>
      groups([0, 'LINE'], [8, 'top'], [10, x], [20, y], [11, u], [21, v]);
    const loose = readDrawing(
      dxf(
        line(10, 1, 0, 1) +
          groups([0, 'ARC'], [8, 'top'], [10, 10], [20, 0.5], [40, 0.5], [50, -90], [51, 90]) +
          line(0, 0, 10, 0) +
          line(0, 0, 0, 1) +
          line(20, 0, 21, 0),
      ),
    );
    expect(areaOf(loose)).toBeCloseTo(areaOf(one), 9);
    expect(loose.notes).toEqual(['1 line does not close on layer top: left out']);
    expect(loose.layers[0].name).toBe('top');
  });

  it('keeps holes and what lies in them, layers, blocks and units', () => {
    const ring = readDrawing(
      dxf(
        polyline(box(0, 0, 6, 6)) +
          polyline(box(1, 1, 4, 4)) +
          polyline(box(2, 2, 1, 1)) +
          polyline(box(9, 0, 1, 2), 'other'),
      ),
    );
    expect(areaOf(ring)).toBeCloseTo(36 - 16 + 1, 9);
    expect(ring.layers.map((l) => l.name)).toEqual(['copper', 'other']);
    expect(areaOf(ring, 1)).toBeCloseTo(2, 9);
    const block =
      groups([0, 'BLOCK'], [8, '0'], [2, 'PAD'], [70, 0], [10, 1], [20, 1]) +
      polyline(box(1, 1, 2, 1), '0') +
      groups([0, 'ENDBLK'], [8, '0']);
    const placed = readDrawing(
      dxf(
        groups([0, 'INSERT'], [8, 'pads'], [2, 'PAD'], [10, 5], [20, 0], [41, 2], [42, 1], [50, 90]),
        1,
        block,
      ),
    );
    // Twice as long, turned upright, in inches.
    const [outline] = placed.layers[0].outlines;
    expect(placed.layers[0].name).toBe('pads');
    expect(Math.min(...outline.map(([x]) => x))).toBeCloseTo(4 * 25.4e-3, 9);
    expect(Math.max(...outline.map(([, y]) => y))).toBeCloseTo(4 * 25.4e-3, 9);
    expect(readDrawing(dxf(polyline(box(0, 0, 1, 1)), 0)).notes).toEqual([
      'the file does not say its unit: taken as millimetres',
    ]);
  });
});

describe('copper from Gerber', () => {
  it('is what regions, flashes and strokes cover, less what is cleared', () => {
    const region = `G36*\n${to(0, 0, 2)}G01*\n${to(4, 0, 1)}G75*\nG03*\n${to(4, 2, 1, `I0J${mm(1)}`)}G01*\n${to(0, 2, 1)}${to(0, 0, 1)}G37*\n`;
    const whole = readDrawing(gerber(region));
    expect(areaOf(whole)).toBeGreaterThan(8 + Math.PI / 2 - 2e-3 * Math.PI);
    expect(areaOf(whole)).toBeLessThan(8 + Math.PI / 2);
    const cleared = readDrawing(gerber(`${region}%LPC*%\nD11*\n${to(2, 1, 3)}`));
    expect(areaOf(cleared)).toBeCloseTo(areaOf(whole) - 2, 9);
    // A flash over a stroke counts once, and one of a long shape is as wide as it says.
    const drawn = readDrawing(
      gerber(`D10*\n${to(0, 0, 2)}G01*\n${to(5, 0, 1)}D12*\n${to(20, 0, 3)}D11*\n${to(2, 0, 3)}`),
    );
    const stroke = 2.5 + Math.PI / 16;
    const long = 2 + Math.PI / 4;
    expect(Math.abs(areaOf(drawn) - (stroke + 2 - 1 + long))).toBeLessThan(2e-3 * (Math.PI / 2 + Math.PI));
    // The same in inches with the trailing zeroes left out.
    const inches = readDrawing('%FSTAX24Y24*%\n%MOIN*%\n%ADD10R,0.1X0.1*%\nD10*\nX01Y0D03*\nM02*\n');
    expect(areaOf(inches)).toBeCloseTo(2.54 ** 2, 6);
    expect(Math.min(...inches.layers[0].outlines[0].map(([x]) => x))).toBeCloseTo(0.95 * 25.4e-3, 9);
  });
});

it('a file that is none, empty, or more than can be read is refused in words', () => {
  for (const [text, words] of [
    ['hello', 'neither DXF nor Gerber'],
    ['\0\0', 'binary'],
    [dxf(''), 'no closed outline'],
    [gerber('D99*\nX0Y0D03*\n'), 'aperture that it does not define'],
    [gerber('%SRX2Y1I5J0*%\n'), 'repeated steps'],
  ])
    expect(() => readDrawing(text), words).toThrow(DrawingError);
});
