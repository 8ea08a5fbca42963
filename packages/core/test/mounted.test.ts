import { describe, expect, it } from 'vitest';
import { cx, drive, type Complex } from '../src/numeric';
import { layersOf, meshOf, prepareSteps, type Copper, type Point, type Walls } from '../src/planar';
import { facingPorts } from '../src/planar/mounted';
import { MM } from './copper';

describe('a part mounted over a gap', () => {
  const [wide, long] = [1.27 * MM, 6 * MM];
  /** Two lines with ports 3 and 4 at their ends that face one another across a gap, turned by an angle. */
  const mounted = (gap: number, walls: Walls | undefined, angle = 0): Copper => {
    const at = (x: number, y: number): Point => [
      x * Math.cos(angle) - y * Math.sin(angle),
      x * Math.sin(angle) + y * Math.cos(angle),
    ];
    const strip = (x0: number, x1: number) =>
      [at(x0, -wide / 2), at(x1, -wide / 2), at(x1, wide / 2), at(x0, wide / 2)] as const;
    const [first, second] = [strip(-long, 0), strip(gap, gap + long)];
    const port = (number: number, ...edge: [Point, Point]) => ({ number, edge, plane: 0, z0: 50 });
    return {
      layers: layersOf('microstrip', {
        er: 2.94,
        tand: 0,
        height: 0.508 * MM,
        cover: walls ? 4 * MM : Infinity,
      }),
      metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
      polygons: [[...first], [...second]],
      ports: [
        port(1, first[0], first[3]),
        port(2, second[1], second[2]),
        { ...port(3, first[1], first[2]), ends: true, other: 4 },
        { ...port(4, second[0], second[3]), ends: true, other: 3 },
      ],
      ...(walls && { walls }),
    };
  };
  /** S11 and S21 of them with ports 3 and 4 joined. */
  const joined = (copper: Copper, f: number): readonly [Complex, Complex] => {
    const { re, im } = drive(prepareSteps(copper, { start: f, stop: 1.5 * f }, 'draft')).at(f);
    const s = (i: number, j: number): Complex => ({ re: re[4 * i + j], im: im[4 * i + j] });
    // Both halves are alike: waves that meet in the middle alike see its open end, those against one another its short.
    const half = (sign: number): Complex => {
      const sum = (a: Complex, b: Complex) => ({ re: a.re + sign * b.re, im: a.im + sign * b.im });
      const [outer, between, inner] = [sum(s(0, 0), s(0, 1)), sum(s(0, 2), s(0, 3)), sum(s(2, 2), s(2, 3))];
      const returned = cx.div(cx.mul(between, between), cx.sub({ re: sign, im: 0 }, inner));
      return cx.add(outer, returned);
    };
    const [even, odd] = [half(1), half(-1)];
    return [
      { re: (even.re + odd.re) / 2, im: (even.im + odd.im) / 2 },
      { re: (even.re - odd.re) / 2, im: (even.im - odd.im) / 2 },
    ];
  };
  const apart = (a: readonly Complex[], b: readonly Complex[]) =>
    Math.max(...a.map((x, i) => cx.abs(cx.sub(x, b[i]))));

  it('lets current go on: over next to no gap it is the line, and radiates no more than that', () => {
    const line = (f: number): readonly Complex[] => {
      const { polygons, ports, ...rest } = mounted(0, undefined);
      const [[a], [, b, c]] = polygons;
      const whole: Copper = { ...rest, polygons: [[a, b, c, polygons[0][3]]], ports: ports.slice(0, 2) };
      const { re, im } = drive(prepareSteps(whole, { start: f, stop: 1.5 * f }, 'draft')).at(f);
      return [0, 2].map((k) => ({ re: re[k], im: im[k] }));
    };
    for (const f of [4e9, 12e9]) {
      const seen = joined(mounted(0.02 * MM, undefined), f);
      expect(apart(seen, line(f))).toBeLessThan(0.012);
      // Ports that ended, or currents that did, would radiate two to four per cent here.
      for (const gap of [0.02, 0.3, 1]) {
        const [back, on] = joined(mounted(gap * MM, undefined), f);
        expect(1 - cx.abs(back) ** 2 - cx.abs(on) ** 2).toBeLessThan(0.012);
      }
    }
  });

  it('stores at its pads what the ends of lines do, on rectangles and on triangles', () => {
    const f = 8e9;
    const seen = joined(mounted(1 * MM, undefined), f);
    // Two ends of 21 fF that see one another, by the solution of the gap.
    expect(cx.abs(seen[0])).toBeCloseTo((2 * Math.PI * f * 2 * 21e-15 * 50) / 2, 2);
    expect(apart(joined(mounted(1 * MM, undefined, 0.4), f), seen)).toBeLessThan(0.012);
  });

  it('has no current over other copper between its pads', () => {
    const copper = mounted(1 * MM, undefined);
    const facing = (polygons: Copper['polygons']) =>
      facingPorts(meshOf(copper, 10e9, 'draft'), { ...copper, polygons }).map(({ half }) => half);
    expect(facing(copper.polygons)).toEqual([expect.closeTo(0.5 * MM, 4)]);
    const [x0, x1] = [0.45 * MM, 0.5 * MM];
    const strip = (from: number, to: number): Point[] => [
      [x0, from],
      [x1, from],
      [x1, to],
      [x0, to],
    ];
    expect(facing([...copper.polygons, strip(-5 * MM, 5 * MM)])).toEqual([]);
    expect(facing([...copper.polygons, strip(-0.1 * MM, 0.1 * MM)])).toEqual([]);
    expect(facing([...copper.polygons, strip(0.7 * MM, 5 * MM)])).toHaveLength(1);
  });

  it('keeps power in a box', () => {
    const walls = { x0: -6 * MM, x1: 6.3 * MM, y0: -5 * MM, y1: 5 * MM };
    const [back, on] = joined(mounted(0.3 * MM, walls), 5e9);
    expect(cx.abs(back)).toBeLessThan(0.03);
    expect(cx.abs(back) ** 2 + cx.abs(on) ** 2).toBeCloseTo(1, 4);
  });
});
