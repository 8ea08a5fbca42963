import { crossSections } from '../../src/lines';
import { agm, C0, drive } from '../../src/numeric';
import { readCopper } from '../../src/formats';
import { junctionCopper } from '../../src/junctions/solved';
import type { Copper, Layers, Point } from '../../src/planar';
import { prepareSteps, solveSteps } from '../../src/planar';
import { graded } from '../../src/planar/grid';
import { guidedBy } from '../../src/planar/guided';
import { kernelOf } from '../../src/planar/kernel';
import { BINOMIALS } from '../../src/planar/local';
import { remaindersOf } from '../../src/planar/open';
import { boxResonances } from '../../src/planar/resonance';
import { meshOf } from '../../src/planar/solve';
import { systemSteps } from '../../src/planar/system';
import { entry, size } from '../helpers';
import solved from '../reference/planar.json' with { type: 'json' };
import { each, spaced, type Group } from './contract';

const MM = 1e-3;

/** Lines of a mesh across a strip, its edges moved outwards as in the mesh of copper. */
export function acrossStrip(width: number, edge: number): number[] {
  const shares = graded(edge, edge, 1);
  const outward = 0.115 * shares[0] * width;
  const out = [-width / 2 - outward];
  for (const share of shares) out.push(out[out.length - 1] + share * (width + 2 * outward));
  return out;
}

const board = (er: number, height: number, cover = Infinity): Layers => ({
  below: { er, tand: 0, height },
  above: { er: 1, tand: 0, height: cover },
});
const between = (er: number, spacing: number): Layers => {
  const half = { er, tand: 0, height: spacing / 2 };
  return { below: half, above: half };
};

/** A strip between two planes, without thickness: exact (Cohn 1954). */
const stripBetween = (er: number, width: number, spacing: number): number => {
  const k = Math.tanh((Math.PI * width) / (2 * spacing));
  const complete = (m: number) => Math.PI / (2 * agm(1, Math.sqrt(1 - m * m)));
  return (
    ((30 * Math.PI) / Math.sqrt(er)) *
    (complete(Math.sqrt(1 - k * k)) / complete(k)) *
    (376.730313668 / (120 * Math.PI))
  );
};

// Low enough that nothing is left of dispersion.
const LOW = 1e7;
const waveOf = (layers: Layers, width: number, share: number, guess: number) => {
  // As the mesh has it: what counts at an edge is at most 1.8 heights wide.
  const edge = share * Math.min(1, (1.8 * layers.below.height) / width);
  const { z0, beta } = guidedBy({ across: acrossStrip(width, edge), pitch: width / 2 }, layers)(LOW, guess);
  return { z0, eeff: (beta / ((2 * Math.PI * LOW) / C0)) ** 2 };
};

const circuits = solved.circuits.map((c) => ({ ...c, copper: readCopper(JSON.stringify(c.copper)) }));
const circuit = (name: string) => circuits.find((c) => c.name === name)!;

/** The largest difference from the reference at any frequency. */
const worst = (name: string, accuracy: 'normal' | 'fine'): number => {
  const { copper, freq, s } = circuit(name);
  const { data } = drive(solveSteps(copper, Float64Array.from(freq), { accuracy }));
  const n = copper.ports.length;
  return Math.max(
    ...freq.flatMap((_f, k) =>
      s[k].flatMap((row, i) =>
        row.map(([re, im], j) => {
          const at = (k * n + i) * n + j;
          return Math.hypot(data.re[at] - re, data.im[at] - im);
        }),
      ),
    ),
  );
};

/** A stub on a line of an open board, turned by an angle. */
export function stubbed(turn: number): Copper {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const at = (x: number, y: number): Point => [(x * c - y * s) * MM, (x * s + y * c) * MM];
  const corners: [number, number][] = [
    [0, -0.85],
    [16, -0.85],
    [16, 0.85],
    [8.5, 0.85],
    [8.5, 7],
    [7.5, 7],
    [7.5, 0.85],
    [0, 0.85],
  ];
  const port = (number: number, x: number) => ({
    number,
    edge: [at(x, -0.85), at(x, 0.85)] as const,
    plane: 2 * MM,
    z0: 50,
  });
  return {
    layers: board(3.5, 0.77 * MM),
    metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
    polygons: [corners.map(([x, y]) => at(x, y))],
    ports: [port(1, 0), port(2, 16)],
  };
}

/** A line along x between two ports, m. */
const straight = (layers: Layers, width: number, length: number, thickness = 0): Copper => {
  const end = (x: number): [Point, Point] => [
    [x, -width / 2],
    [x, width / 2],
  ];
  const [[a, d], [b, c]] = [end(0), end(length)];
  return {
    layers,
    metal: { conductivity: Infinity, thickness, roughness: 0 },
    polygons: [[a, b, c, d]],
    ports: [0, length].map((x, i) => ({ number: i + 1, edge: end(x), plane: 0, z0: 50 })),
  };
};

export const planar: Group = {
  name: 'Planar field solution',
  cases: [
    {
      what: 'Kernels in space without a dielectric',
      against: 'exact source and image, exp(-jkR)/R',
      over: '0.1 to 5 GHz to 30 heights, 5 and 15 GHz to 300, in 1/h',
      bound: 5e-6,
      absolute: true,
      errors: () =>
        [
          [1e8, 30],
          [1e9, 30],
          [5e9, 30],
          [5e9, 300],
          [15e9, 300],
        ].flatMap(([f, far]) => {
          const h = MM;
          const layers = board(1, h);
          const k = (2 * Math.PI * f) / C0;
          const table = remaindersOf(kernelOf(layers, f, 2 * h), layers, f, 2 * h, far * h);
          return Array.from(table.at)
            .slice(1)
            .flatMap((rho, i) => {
              const image = Math.hypot(rho, 2 * h);
              const local = BINOMIALS.reduce((sum, b, j) => sum + b / Math.hypot(rho, 2 * j * h), 0);
              const re = Math.cos(k * rho) / rho - Math.cos(k * image) / image - local;
              const im = -Math.sin(k * rho) / rho + Math.sin(k * image) / image;
              return [0, 2].map((part) => {
                const unit = part === 0 ? 1e-7 : C0 ** 2 * 1e-7;
                const at = 4 * (i + 1) + part;
                return (
                  h *
                  Math.hypot(
                    (table.value[at] + table.cone[part] * rho) / unit - re,
                    (table.value[at + 1] + table.cone[part + 1] * rho) / unit - im,
                  )
                );
              });
            });
        }),
    },
    ...(['normal', 'fine'] as const).map((accuracy) => ({
      what: `Impedance of a strip between planes, ${accuracy} mesh`,
      against: 'exact (Cohn 1954)',
      over: 'w/b 0.2 to 2, er 1 to 10',
      bound: accuracy === 'normal' ? 2e-3 : 5e-4,
      errors: () =>
        each([0.2, 0.7, 2], [1, 2.94, 10]).map(([u, er]) => {
          const { z0 } = waveOf(between(er, MM), u * MM, accuracy === 'normal' ? 1 / 6 : 1 / 14, er);
          return Math.abs(z0 / stripBetween(er, u * MM, MM) - 1);
        }),
    })),
    {
      what: 'Permittivity of a strip between planes',
      against: 'that of the dielectric',
      over: 'w/b 0.2 to 2, er 1 to 10',
      bound: 1e-6,
      errors: () =>
        each([0.2, 0.7, 2], [1, 2.94, 10]).map(([u, er]) =>
          Math.abs(waveOf(between(er, MM), u * MM, 1 / 6, er).eeff / er - 1),
        ),
    },
    ...(['z0', 'eeff'] as const).map((what) => ({
      what: `${what === 'z0' ? 'Impedance' : 'Permittivity'} of a microstrip, fine mesh`,
      against: 'field solution of the cross-section',
      over: 'w/h 0.3 to 4, er 2.2 to 9.8, open and under a lid',
      bound: what === 'z0' ? 2e-3 : 1e-3,
      errors: () =>
        each([0.3, 1, 4], [2.2, 9.8]).flatMap(([u, er]) =>
          [Infinity, 2 * MM].map((cover) => {
            const substrate = {
              er,
              tand: 0,
              height: MM,
              thickness: 0,
              conductivity: 1e30,
              roughness: 0,
              cover,
            };
            const [point] = crossSections.strip.microstrip.prepare(substrate, [u * MM]).statics;
            const wave = waveOf(board(er, MM, cover), u * MM, 1 / 14, point.eeff);
            return Math.abs(wave[what] / point[what] - 1);
          }),
        ),
    })),
    {
      what: 'Resonances of a box',
      against: 'exact, of one dielectric',
      over: 'with one half wave upwards',
      bound: 1e-9,
      errors: () => {
        const walls = { x0: 0, x1: 30 * MM, y0: 0, y1: 20 * MM };
        const layer = (height: number) => ({ er: 2, tand: 0, height });
        const found = boxResonances({ below: layer(MM), above: layer(7 * MM) }, walls, 1e9, 19e9);
        // A sheet of current excites only what has half waves upwards: fields along the planes, and those across them.
        const exact: number[] = [];
        for (let m = 0; m < 6; m++)
          for (let n = 0; n < 6; n++) {
            const f = (C0 / (2 * Math.SQRT2)) * Math.hypot(m / (30 * MM), n / (20 * MM), 1 / (8 * MM));
            if (f > 19e9) continue;
            if (m + n > 0) exact.push(f);
            if (m > 0 && n > 0) exact.push(f);
          }
        exact.sort((p, q) => p - q);
        return [found.length - exact.length, ...exact.map((f, i) => Math.abs(found[i] / f - 1))];
      },
    },
    ...circuits.map(({ name }) => ({
      what: `S-parameters of ${name === 'open end' ? 'an' : 'a'} ${name} in a box, normal mesh`,
      against: 'two other methods, extrapolated',
      over: 'nine frequencies',
      bound: 0.02,
      absolute: true as const,
      errors: () => [worst(name, 'normal')],
    })),
    {
      what: 'S-parameters of a bend in a box, fine mesh',
      against: 'two other methods, extrapolated',
      over: 'nine frequencies',
      bound: 0.01,
      absolute: true,
      errors: () => [worst('bend', 'fine')],
    },
    {
      what: 'Notch of a stub in a box, normal mesh',
      against: 'two other methods, extrapolated',
      over: '5.68 GHz',
      bound: 3e-3,
      errors: () => {
        const { copper, notch } = circuit('stub');
        const freq = Float64Array.from(spaced(0.985 * notch!, 1.015 * notch!, 121));
        const { data } = drive(solveSteps(copper, freq));
        const through = Array.from(freq, (_f, k) => size(entry(data, 2, 1, k)));
        return [Math.abs(freq[through.indexOf(Math.min(...through))] / notch! - 1)];
      },
    },
    {
      what: 'Power that leaves lossless copper in a box',
      against: 'that which goes in',
      over: 'a stub, 1 to 7 GHz',
      bound: 1e-6,
      errors: () => {
        const { copper, freq } = circuit('stub');
        const { data } = drive(solveSteps(copper, Float64Array.from(freq), { accuracy: 'draft' }));
        return freq.map((_f, k) =>
          Math.abs(size(entry(data, 1, 1, k)) ** 2 + size(entry(data, 2, 1, k)) ** 2 - 1),
        );
      },
    },
    {
      what: 'S-parameters of a straight line on an open board',
      against: 'its own wave, matched and turned by its length',
      over: '10 mm on 0.508 mm, 2 to 14 GHz: 1.3 and 0.03 mm on er 2.94, 0.5 mm on 9.8',
      bound: 2e-3,
      absolute: true,
      errors: () =>
        [
          [2.94, 1.3],
          [2.94, 0.03],
          [9.8, 0.5],
        ].flatMap(([er, width]) => {
          const copper = straight(board(er, 0.508 * MM), width * MM, 10 * MM);
          const prepared = drive(prepareSteps(copper, { start: 2e9, stop: 14e9 }, 'normal'));
          return spaced(2e9, 14e9, 6).flatMap((f) => {
            const { re, im } = prepared.own(f);
            const turn = prepared.lines(f)[0].beta * 10 * MM;
            return [Math.hypot(re[0], im[0]), Math.hypot(re[1] - Math.cos(turn), im[1] + Math.sin(turn))];
          });
        }),
    },
    {
      what: 'Power that leaves lossless copper on an open board beyond that which goes in',
      against: 'none',
      over: 'steps of 1 to 2 and 0.5 to 1.5 mm on er 2.94, 0.508 mm, 5 to 26 GHz',
      bound: 1e-3,
      absolute: true,
      errors: () =>
        [
          [1, 2],
          [0.5, 1.5],
        ].flatMap((widths) => {
          const freq = spaced(5e9, 26e9, 8);
          const copper = junctionCopper(
            'step',
            widths.map((w) => w * MM),
            board(2.94, 0.508 * MM),
          );
          const prepared = drive(prepareSteps(copper, { start: 5e9, stop: 26e9 }, 'normal'));
          return freq.map((f) => {
            const { re, im } = prepared.own(f);
            const power = [0, 1].map((q) => [q, q + 2].reduce((sum, k) => sum + re[k] ** 2 + im[k] ** 2, -1));
            return Math.max(0, ...power);
          });
        }),
    },
    {
      what: 'Current that enters inside of a box',
      against: 'the same strip on the open board under the same lid: its inductance and capacitance',
      over: 'strips straight and at 20 deg, walls 6 and 12 heights away, 0.5 and 1 GHz',
      bound: 1e-3,
      errors: () => {
        const layers = board(2.94, MM, 5 * MM);
        return [0, Math.PI / 9].flatMap((turn) => {
          const at = ([x, y]: Point): Point => [
            (x * Math.cos(turn) - y * Math.sin(turn)) * MM,
            (x * Math.sin(turn) + y * Math.cos(turn)) * MM,
          ];
          const corners: Point[] = [
            [-5, -1.25],
            [5, -1.25],
            [5, 1.25],
            [-5, 1.25],
          ];
          const ring = corners.map(at);
          const ports = (
            [
              [3, 0],
              [1, 2],
            ] as const
          ).map(([i, j], k) => ({
            number: k + 1,
            edge: [ring[i], ring[j]] as const,
            plane: 0,
            z0: 50,
            ends: true,
          }));
          const metal = { conductivity: Infinity, thickness: 0, roughness: 0 };
          const [xs, ys] = [0, 1].map((k) => ring.map((p) => p[k]));
          const seen = (room?: number) => {
            const walls = room !== undefined && {
              x0: Math.min(...xs) - room,
              x1: Math.max(...xs) + room,
              y0: Math.min(...ys) - room,
              y1: Math.max(...ys) + room,
            };
            const copper: Copper = { layers, metal, polygons: [ring], ports, ...(walls && { walls }) };
            const mesh = meshOf(copper, 4e9, 'normal');
            const system = drive(systemSteps(mesh, layers, copper.walls, undefined));
            return [0.5e9, 1e9].flatMap((f) => {
              const { im } = system.solve(f);
              return [(im[0] + im[1]) / f, 1 / ((im[0] - im[1]) * f)];
            });
          };
          const open = seen();
          return [6 * MM, 12 * MM].flatMap((room) => seen(room).map((x, i) => Math.abs(x / open[i] - 1)));
        });
      },
    },
    {
      what: 'Loss of a line in a box',
      against: 'line models (incremental inductance, filling)',
      over: '1 to 9 GHz, copper on a lossy board',
      bound: 0.05,
      errors: () => {
        const { copper } = circuit('stub');
        const [w, x1] = [1.732 * MM, 0.012557];
        const line: Copper = {
          ...copper,
          layers: { ...copper.layers, below: { ...copper.layers.below, tand: 0.003 } },
          metal: { conductivity: 5.8e7, thickness: 17.5e-6, roughness: 0 },
          polygons: [
            [
              [0, 7 * MM - w / 2],
              [x1, 7 * MM - w / 2],
              [x1, 7 * MM + w / 2],
              [0, 7 * MM + w / 2],
            ],
          ],
          ports: [0, x1].map((x, i) => ({
            number: i + 1,
            edge: [
              [x, 7 * MM - w / 2],
              [x, 7 * MM + w / 2],
            ],
            plane: 2 * MM,
            z0: 50,
          })),
        };
        const freq = Float64Array.of(1e9, 5e9, 9e9);
        const { data } = drive(solveSteps(line, freq));
        const { er, height } = copper.layers.below;
        const section = crossSections.strip.microstrip.prepare(
          {
            er,
            tand: 0.003,
            height,
            thickness: 17.5e-6,
            conductivity: 5.8e7,
            roughness: 0,
            cover: copper.layers.above.height,
          },
          [w],
        );
        const point = { z0: 0, eeff: 0, alphaConductor: 0, alphaDielectric: 0 };
        return Array.from(freq, (f, k) => {
          section.at(f, [point]);
          const alpha = (point.alphaConductor + point.alphaDielectric) * (x1 - 4 * MM);
          const lost =
            -0.5 * Math.log(size(entry(data, 2, 1, k)) ** 2 / (1 - size(entry(data, 1, 1, k)) ** 2));
          return Math.abs(lost / alpha - 1);
        });
      },
    },
    {
      what: 'Permittivity of a line of metal that has a thickness',
      against: 'line models (field solution of the cross-section)',
      over: 'w/h 0.6 to 2.5, 18 and 35 um on 0.508 mm, 7 GHz',
      bound: 0.003,
      errors: () =>
        each([0.31, 0.63, 1.27], [18e-6, 35e-6]).map(([wide, thickness]) => {
          const w = wide * MM;
          const { ports } = drive(
            solveSteps(straight(board(2.94, 0.508 * MM), w, 6 * MM, thickness), Float64Array.of(2e9, 12e9)),
          );
          const point = { z0: 0, eeff: 0, alphaConductor: 0, alphaDielectric: 0 };
          crossSections.strip.microstrip
            .prepare(
              {
                ...{ er: 2.94, tand: 0, height: 0.508 * MM, thickness },
                ...{ conductivity: 5.8e7, roughness: 0, cover: Infinity },
              },
              [w],
            )
            .impedanceAt(7e9, [point]);
          return Math.max(...ports.map((p) => Math.abs(p.eeff / point.eeff - 1)));
        }),
    },
    {
      what: 'Reflection of a line on an open board',
      against: 'none: the line goes on behind its ports',
      over: '2 and 5 mm long, height to 1/37 of the wave',
      bound: 0.003,
      absolute: true,
      errors: () =>
        [2, 5].flatMap((long) => {
          const w = 1.27 * MM;
          const of = (z0: number): Copper => ({
            layers: board(2.94, 0.508 * MM),
            metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
            polygons: [
              [
                [0, -w / 2],
                [long * MM, -w / 2],
                [long * MM, w / 2],
                [0, w / 2],
              ],
            ],
            ports: [0, long * MM].map((x, i) => ({
              number: i + 1,
              edge: [
                [x, -w / 2],
                [x, w / 2],
              ],
              plane: 0,
              z0,
            })),
          });
          return [5e9, 10e9, 16e9].map((f) => {
            const freq = Float64Array.of(f);
            const [{ z0 }] = drive(solveSteps(of(50), freq)).ports;
            return size(entry(drive(solveSteps(of(z0), freq)).data, 1, 1, 0));
          });
        }),
    },
    {
      what: 'Triangles of turned copper',
      against: 'rectangles of the same copper along the axes',
      over: 'a stub turned by 25 degrees, 1 to 7 GHz',
      bound: 0.02,
      absolute: true,
      errors: () => {
        const freq = Float64Array.of(1e9, 4e9, 7e9);
        const [a, b] = [0, (25 * Math.PI) / 180].map((turn) => drive(solveSteps(stubbed(turn), freq)).data);
        return Array.from(a.re, (_, i) => Math.hypot(a.re[i] - b.re[i], a.im[i] - b.im[i]));
      },
    },
  ],
};
