import { EPS0 } from '../../src/numeric/constants';
import { gaussLegendre } from '../../src/numeric/quadrature';
import { solveReal } from '../../src/numeric/matrix';

/** A rectangular conductor over a ground plane, lying on (or buried in) a dielectric, with an optional second plane. */
export interface Section {
  /** Width and thickness of the conductor, m. */
  readonly width: number;
  readonly thickness: number;
  /** Height of the conductor's lower face above ground, m. */
  readonly height: number;
  /** Distance between the two planes, m; Infinity without the upper one. */
  readonly spacing: number;
  /** Permittivity below `height`, and above. */
  readonly er: number;
  readonly erAbove: number;
}

interface Panel {
  readonly x: number;
  readonly y: number;
  /** Half length times direction. */
  readonly dx: number;
  readonly dy: number;
  readonly half: number;
}

/** Cuts the segment from a to b into `n` panels that shrink towards its ends. */
function grade(ax: number, ay: number, bx: number, by: number, n: number): Panel[] {
  const cut = (s: number) => 0.5 * (1 - Math.cos(Math.PI * s));
  // Twice through the cosine map grades as the fourth power of the distance to the edge, where the charge is singular.
  const twice = (s: number) => cut(cut(s));
  return Array.from({ length: n }, (_, i) => {
    const p = twice(i / n);
    const q = twice((i + 1) / n);
    const dx = ((q - p) / 2) * (bx - ax);
    const dy = ((q - p) / 2) * (by - ay);
    return {
      x: ax + ((p + q) / 2) * (bx - ax),
      y: ay + ((p + q) / 2) * (by - ay),
      dx,
      dy,
      half: Math.hypot(dx, dy),
    };
  });
}

/**
 * Capacitance in F/m of a conductor with thickness, by boundary elements: total charge on the conductor's faces and on
 * the dielectric interface, the ground planes in the Green's function (one: image; two: the exact periodic one).
 * Constant charge on edge-graded panels, collocation at the centres. Source: Harrington 1968; Wei et al. 1984.
 *
 * @param n panels on the conductor's longer faces; the error falls about as 1/n^2
 */
export function sectionCapacitance(section: Section, n: number): number {
  const { width: w, thickness: t, height: h, spacing: b, er, erAbove } = section;
  const sides = Math.max(8, Math.round(n / 2));
  const left = -w / 2;
  const conductor = [
    ...grade(left, h, -left, h, n),
    ...grade(left, h + t, -left, h + t, n),
    ...grade(left, h, left, h + t, sides),
    ...grade(-left, h, -left, h + t, sides),
  ];
  const bottom = n;
  const far = 14 * Math.min(b, Math.max(h, w));
  const interfaces: Panel[] = [];
  if (er !== erAbove) {
    // Geometric growth away from the conductor's corner.
    const count = 2 * n;
    const first = conductor[0].half * 2;
    const ratio = Math.pow(far / first, 1 / count);
    let from = 0;
    for (let i = 0; i < count; i++) {
      const to = i === 0 ? first : from * Math.max(ratio, 1.02);
      const half = (to - from) / 2;
      const centre = w / 2 + (from + to) / 2;
      interfaces.push(
        { x: centre, y: h, dx: half, dy: 0, half },
        { x: -centre, y: h, dx: half, dy: 0, half },
      );
      from = to;
    }
  }
  const panels = [...conductor, ...interfaces];
  const N = panels.length;
  const { nodes, weights } = gaussLegendre(6);

  // G = -(1/2) ln r^2 + rest; the rest (images) is smooth unless close to a plane.
  /** (cosh c dx - cos c dy) / 2 without the cancellation that close panels would bring. */
  const c = Math.PI / b;
  const periodic = (dx: number, dy: number) =>
    Math.sinh(Math.min(0.5 * c * Math.abs(dx), 300)) ** 2 + Math.sin(0.5 * c * dy) ** 2;
  const rest = (dx: number, y: number, v: number) => {
    if (b === Infinity) return 0.5 * Math.log(dx * dx + (y + v) * (y + v));
    const r2 = dx * dx + (y - v) * (y - v);
    const near = r2 === 0 ? (c * c) / 4 : periodic(dx, y - v) / r2;
    return 0.5 * Math.log(periodic(dx, y + v) / near);
  };
  const restSlope = (dx: number, y: number, v: number) => {
    if (b === Infinity) return (y + v) / (dx * dx + (y + v) * (y + v));
    const r2 = dx * dx + (y - v) * (y - v);
    const slope = (dy: number) => (0.5 * c * Math.sin(c * dy)) / periodic(dx, dy);
    const lower = r2 < 1e-12 * b * b ? 0 : slope(y - v) - (2 * (y - v)) / r2;
    return 0.5 * (slope(y + v) - lower);
  };
  /** Integral over panel p of -(1/2) ln r^2 seen from (x, y). */
  const logIntegral = (p: Panel, x: number, y: number) => {
    const ux = p.dx / p.half;
    const uy = p.dy / p.half;
    const s = (x - p.x) * ux + (y - p.y) * uy;
    const d = Math.abs((x - p.x) * -uy + (y - p.y) * ux);
    const f = (u: number) => {
      const r2 = u * u + d * d;
      return r2 === 0 ? 0 : 0.5 * u * Math.log(r2) - u + (d > 0 ? d * Math.atan(u / d) : 0);
    };
    return -(f(p.half + s) + f(p.half - s));
  };

  const a = new Float64Array(N * N);
  const right = new Float64Array(N);
  for (let i = 0; i < N; i++) {
    const p = panels[i];
    const onConductor = i < conductor.length;
    if (onConductor) right[i] = 2 * Math.PI * EPS0;
    for (let j = 0; j < N; j++) {
      const q = panels[j];
      let value = onConductor ? logIntegral(q, p.x, p.y) : 0;
      for (let k = 0; k < nodes.length; k++) {
        const dx = p.x - (q.x + nodes[k] * q.dx);
        const v = q.y + nodes[k] * q.dy;
        if (onConductor) value += weights[k] * q.half * rest(dx, p.y, v);
        else {
          // Field normal to the interface (upwards), without the panel's own half-charge jump.
          let slope = restSlope(dx, p.y, v);
          const dy = p.y - v;
          if (dy !== 0) slope -= dy / (dx * dx + dy * dy);
          value -= weights[k] * q.half * slope;
        }
      }
      a[i * N + j] = value;
    }
    if (!onConductor) {
      // Continuity of the normal flux: erAbove (E + s/2eps) = er (E - s/2eps).
      for (let j = 0; j < N; j++) a[i * N + j] *= (erAbove - er) / Math.PI;
      a[i * N + i] += erAbove + er;
    }
  }
  const charge = solveReal(N, a, right);
  let total = 0;
  for (let i = 0; i < conductor.length; i++)
    total += charge[i] * 2 * panels[i].half * (i < bottom ? er : erAbove);
  return total;
}

/** Capacitance with an estimate of its own error (relative), from two resolutions and their extrapolation. */
export function solveSection(section: Section, n = 40): { capacitance: number; error: number } {
  const coarse = sectionCapacitance(section, Math.round(n / 2));
  const fine = sectionCapacitance(section, n);
  const extrapolated = fine + (fine - coarse) / 3;
  return { capacitance: extrapolated, error: Math.abs((fine - coarse) / (3 * fine)) };
}
