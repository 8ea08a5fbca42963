import { describe, expect, it } from 'vitest';
import { drive } from '../src/numeric';
import { meshOf, prepareSteps, type Copper, type Point } from '../src/planar';
import { symmetryOf } from '../src/planar/symmetry';
import { check, line, MM, port, rect } from './copper';

const TOP = 6e9;

const orderOf = (copper: Copper): number => {
  const mesh = meshOf(copper, TOP, 'normal');
  return symmetryOf(mesh, mesh.bases.length, () => false, copper.walls).order;
};

/** The same stretched here and pressed there: too much for its mesh to lie on itself, too little to be seen. */
function skewed({ polygons, ports, ...rest }: Copper): Copper {
  const all = polygons.flat();
  const [x, y] = [0, 1].map((k) => {
    const at = all.map((p) => p[k]);
    const [low, high] = [Math.min(...at), Math.max(...at)];
    return (v: number) => v + (4 - k) * 1e-8 * Math.sin((Math.PI * (v - low)) / (high - low));
  });
  const moved = ([u, v]: Point): Point => [x(u), y(v)];
  return {
    ...rest,
    polygons: polygons.map((p) => p.map(moved)),
    ports: ports.map((p) => ({ ...p, edge: [moved(p.edge[0]), moved(p.edge[1])] as const })),
  };
}

const upright = (number: number, x0: number, x1: number, y: number) => ({
  ...port(number, 0, 0, 0),
  edge: [
    [x0 * MM, y * MM],
    [x1 * MM, y * MM],
  ] as const,
});

const widened: Copper = { ...line, polygons: [rect(0, 0, 10, 2), rect(3, -1, 7, 3)] };
const boxed = { x0: 0, x1: 10 * MM, y0: -7 * MM, y1: 9 * MM };
const shapes: Readonly<Record<string, { readonly copper: Copper; readonly order: number }>> = {
  'a line with a wide part, across both axes': { copper: widened, order: 4 },
  'the same in a box': {
    copper: {
      ...widened,
      walls: boxed,
      layers: { ...line.layers, above: { er: 1, tand: 0, height: 4 * MM } },
    },
    order: 4,
  },
  'the same in a box without a lid, with loss': {
    copper: {
      ...widened,
      walls: boxed,
      metal: { conductivity: 5e7, thickness: 18e-6, roughness: 0 },
    },
    order: 4,
  },
  'a line with a stub, across one axis': {
    copper: { ...line, polygons: [rect(0, 0, 10, 2), rect(4, 2, 6, 6)] },
    order: 2,
  },
  'two lines that are one another\u2019s half a turn': {
    copper: {
      ...line,
      polygons: [rect(0, 0, 6, 2), rect(4, 2.5, 10, 4.5)],
      ports: [port(1, 0, 0, 2), port(2, 10, 2.5, 4.5)],
    },
    order: 2,
  },
  'a square bend, across its diagonal': {
    copper: {
      ...line,
      polygons: [rect(0, 0, 8, 2), rect(6, -6, 8, 0)],
      ports: [port(1, 0, 0, 2), upright(2, 6, 8, -6)],
    },
    order: 2,
  },
  'a step to a line so narrow that its wave is spread alike at all frequencies': {
    copper: {
      ...line,
      polygons: [rect(0, 0, 5, 2), rect(5, 0.99, 10, 1.01)],
      ports: [port(1, 0, 0, 2), port(2, 10, 0.99, 1.01)],
    },
    order: 2,
  },
  'a crossing of one line with another, which is narrower': {
    copper: {
      ...line,
      polygons: [rect(0, 0, 10, 2), rect(4.5, -4, 5.5, 6)],
      ports: [port(1, 0, 0, 2), port(2, 10, 0, 2), upright(3, 4.5, 5.5, -4), upright(4, 4.5, 5.5, 6)],
    },
    order: 4,
  },
};

describe('copper that lies on itself when it is turned', () => {
  it.each(Object.entries(shapes))('is solved as if it did not: %s', (_, { copper, order }) => {
    expect(orderOf(copper)).toBe(order);
    const other = skewed(copper);
    expect(orderOf(other)).toBe(1);
    const band = { start: 1e9, stop: TOP };
    const [one, two] = [copper, other].map((c) => drive(prepareSteps(c, band, 'normal')));
    expect(two.unknowns).toBe(one.unknowns);
    for (const f of [1e9, 4.3e9, TOP]) {
      const [s, t] = [one.at(f), two.at(f)];
      s.re.forEach((x, i) => expect(Math.hypot(x - t.re[i], s.im[i] - t.im[i])).toBeLessThan(2e-4));
    }
    // Currents stand where they belong: with one port driven nothing about them is alike.
    const sent = copper.ports.map((_, p) => ({ re: p === 0 ? 1 : 0, im: 0 }));
    const [flow, same] = [one, two].map((p) => p.flow(4.3e9, sent));
    const most = Math.max(...flow.x.re.map((x, c) => Math.hypot(x, flow.x.im[c])));
    expect(most).toBeGreaterThan(0);
    for (const axis of ['x', 'y'] as const)
      flow[axis].re.forEach((x, c) => {
        const apart = Math.hypot(x - same[axis].re[c], flow[axis].im[c] - same[axis].im[c]);
        expect(apart).toBeLessThan(3e-3 * most);
      });
  });

  it('is meshed as its own mirror image where it takes triangles', () => {
    const arc = (r: number, from: number, to: number) =>
      Array.from({ length: 25 }, (_, i): Point => {
        const a = from + ((to - from) * i) / 24;
        return [(5 + r * Math.cos(a)) * MM, (1 + r * Math.sin(a)) * MM];
      });
    /** A ring with two feeds, or with a third one that spoils one of its axes. */
    const ring = (third: boolean): Copper => ({
      ...line,
      polygons: [
        rect(-3, 0.5, 2.5, 1.5),
        rect(7.5, 0.5, 13, 1.5),
        [...arc(3, 0, Math.PI), ...arc(2, Math.PI, 0)],
        [...arc(3, Math.PI, 2 * Math.PI), ...arc(2, 2 * Math.PI, Math.PI)],
        ...(third ? [rect(4.5, 3.5, 5.5, 8)] : []),
      ],
      ports: [port(1, -3, 0.5, 1.5), port(2, 13, 0.5, 1.5), ...(third ? [upright(3, 4.5, 5.5, 8)] : [])],
    });
    for (const third of [false, true]) {
      const mesh = meshOf(ring(third), TOP, 'normal');
      check(mesh);
      expect(mesh.cells.some((c) => c.corners.length === 6)).toBe(true);
      expect(orderOf(ring(third))).toBe(third ? 2 : 4);
      for (const [p, { across, functions }] of mesh.ports.entries()) {
        expect(functions, `port ${p + 1}`).toHaveLength(across.length - 1);
        expect(across[across.length - 1] - across[0]).toBeGreaterThan(MM);
      }
    }
    const unlike = { ...ring(false), ports: ring(false).ports.map((p, i) => ({ ...p, ends: i === 0 })) };
    // What stands at a port counts as well.
    expect(orderOf(unlike)).toBe(2);
  });
});
