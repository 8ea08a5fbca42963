import { outlinesOf, within } from '../polygons';
import { brent } from '../numeric';
import { crossSections, linePoint, media, skinDepth, surfaceResistance, type Substrate } from '../lines';
import { widthOf, type Copper, type Layers, type Sheet } from './contract';
import { guidedBy } from './guided';
import { layersOf } from './layers';
import type { Feed } from './ports';

/** The substrate that line models know for these layers; undefined where they know none. */
function substrateOf({
  layers,
  metal,
}: Copper): { medium: 'microstrip' | 'stripline'; substrate: Substrate } | undefined {
  const { below, above } = layers;
  const { conductivity, thickness, roughness } = metal;
  const rest = { er: below.er, tand: below.tand, conductivity, thickness, roughness };
  if (above.er === 1)
    return { medium: 'microstrip', substrate: { ...rest, height: below.height, cover: above.height } };
  if (above.er === below.er && above.height === below.height)
    return { medium: 'stripline', substrate: { ...rest, height: 2 * below.height, cover: Infinity } };
  return undefined;
}

/** What surrounds the sheet that stands for the metal. */
export function sheetLayersOf(copper: Copper): Layers {
  const known = substrateOf(copper);
  if (copper.metal.thickness === 0 || !known) return copper.layers;
  return layersOf(known.medium, media[known.medium].sheeted(known.substrate));
}

/** Below this a length is none, m. */
const NEAR = 1e-8;

/**
 * How far the edges of a sheet without thickness stand outside of those of metal that has one, so that lines at the ports
 * have the same static impedance, m: the first-order effect of thickness.
 */
export function wideningOf(copper: Copper): number {
  const { thickness } = copper.metal;
  const known = substrateOf(copper);
  if (thickness === 0 || !known) return 0;
  const { medium, substrate } = known;
  const sheet = media[medium].sheeted(substrate);
  const z0 = (on: Substrate, width: number) => crossSections.strip[medium].prepare(on, [width]).statics[0].z0;
  const each = copper.ports.map((port) => {
    const width = widthOf(port);
    const target = z0(substrate, width);
    return brent((d) => z0(sheet, width + 2 * d) - target, 0, 4 * thickness);
  });
  return each.reduce((a, b) => a + b, 0) / each.length;
}

/**
 * Lengths of lines inside of the copper by their width, m: pieces of it that are rectangles whose long sides are the copper's rim.
 * What junctions leave of a wide line may be shorter than it is wide, and lies across.
 */
function linesIn({ polygons }: Copper): { readonly width: number; readonly length: number }[] {
  const outlines = outlinesOf(polygons);
  return polygons.flatMap((p) => {
    if (p.length !== 4) return [];
    const sides = p.map((a, i) => Math.hypot(p[(i + 1) % 4][0] - a[0], p[(i + 1) % 4][1] - a[1]));
    const alike = (a: number, b: number) => Math.abs(a - b) < 0.01 * Math.max(a, b);
    if (!alike(sides[0], sides[2]) || !alike(sides[1], sides[3])) return [];
    const [width, length] = [Math.min(sides[0], sides[1]), Math.max(sides[0], sides[1])];
    if (!(length > width && width > NEAR)) return [];
    const isRim = [0, 1, 2, 3]
      .filter((i) => sides[i] > (width + length) / 2)
      .every((i) => {
        const [[ax, ay], [bx, by], [cx, cy]] = [p[i], p[(i + 1) % 4], p[(i + 2) % 4]];
        // A little way out from the middle of the side, away from the opposite one.
        const out = (1e-2 * width) / Math.hypot(cx - bx, cy - by);
        return !within(outlines, (ax + bx) / 2 - out * (cx - bx), (ay + by) / 2 - out * (cy - by));
      });
    return isRim ? [{ width, length }] : [];
  });
}

/**
 * By how much the phase constant of lines is less for metal that has a thickness than for a sheet with the same impedance: the
 * sides of a thick strip see air. Of lines of several widths their mean over the lengths that can be told; where none can, those of
 * the ports.
 * @param wider how far the edges of the sheet stand outside, m
 * @param f where lines are compared, Hz
 */
export function swiftOf(copper: Copper, wider: number, f: number): number {
  const { thickness } = copper.metal;
  const known = substrateOf(copper);
  if (thickness === 0 || !known) return 1;
  const { medium, substrate } = known;
  const sheet = media[medium].sheeted(substrate);
  const eeff = (on: Substrate, width: number): number => {
    const point = linePoint();
    crossSections.strip[medium].prepare(on, [width]).impedanceAt(f, [point]);
    return point.eeff;
  };
  const lines = linesIn(copper);
  const each = lines.length > 0 ? lines : copper.ports.map((p) => ({ width: widthOf(p), length: 1 }));
  const ratios = new Map<number, number>();
  let [sum, whole] = [0, 0];
  for (const { width, length } of each) {
    const key = Math.round(width * 1e7);
    let ratio = ratios.get(key);
    if (ratio === undefined)
      ratios.set(key, (ratio = Math.sqrt(eeff(substrate, width) / eeff(sheet, width + 2 * wider))));
    sum += length * ratio;
    whole += length;
  }
  return sum / whole;
}

const without = ({ below, above }: Layers): Layers => ({
  below: { ...below, tand: 0 },
  above: { ...above, tand: 0 },
});

/**
 * The impedance of the metal as a sheet without thickness. Current flows on both faces of it, more on the one that looks at
 * the ground, and crowds at the edges, where thickness bounds it; a sheet knows neither. So it is scaled such that the lines at
 * the ports lose what line models say (Wheeler's incremental inductance).
 * @param f where lines are compared, Hz
 */
export function sheetOf(copper: Copper, feeds: readonly Feed[], f: number): Sheet | undefined {
  const { conductivity, thickness, roughness } = copper.metal;
  if (conductivity === Infinity) return undefined;
  const resistance = (at: number) => surfaceResistance(at, conductivity, thickness, roughness);
  const known = substrateOf(copper);
  let scale = 1;
  if (known) {
    const { medium, substrate } = known;
    const layers = without(sheetLayersOf(copper));
    const scales = feeds.map(({ strip, width }) => {
      const point = linePoint();
      crossSections.strip[medium].prepare(substrate, [width]).at(f, [point]);
      // Of one ohm per square.
      const { alpha } = guidedBy(strip, layers, () => ({ re: 1, im: 0 }))(f, point.eeff);
      return point.alphaConductor / (alpha * resistance(f));
    });
    scale = scales.reduce((a, b) => a + b, 0) / scales.length;
  }
  return (at) => {
    const re = scale * resistance(at);
    // Inside of metal that is thin against the skin's depth the field is that of a slab.
    const inside = thickness > 0 ? Math.min(1, thickness / skinDepth(at, conductivity)) : 1;
    return { re, im: re * inside };
  };
}
