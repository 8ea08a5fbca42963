import type { ResolvedDesign } from '../network';
import type { Complex } from '../numeric';
import type { QuantityKind } from '../units';

/** Two ports that are driven at once, and what of the second wave is varied against the first. */
interface Driving {
  readonly first: number;
  readonly second: number;
  readonly face: 'phase' | 'level';
}

const KEY = /^drive:(\d+)\+(\d+):(phase|level)$/;

/** What a key of a family's axis says of driven ports; undefined where it is about something else. */
export function drivingOf(key: string): Driving | undefined {
  const [, first, second, face] = KEY.exec(key) ?? [];
  return face === undefined
    ? undefined
    : { first: Number(first), second: Number(second), face: face as Driving['face'] };
}

const portsOf = ({ pieces }: ResolvedDesign): number[] =>
  pieces
    .filter((p) => p.kind === 'port')
    .map((p) => Number(p.settings.number))
    .sort((a, b) => a - b);

/** Every pair of ports, each with its phase and its level: what there is to vary where two ports are driven. */
export const drivingKeys = (
  resolved: ResolvedDesign,
): {
  readonly key: string;
  readonly label: string;
  readonly kind: QuantityKind;
  readonly value: number;
}[] => {
  const ports = portsOf(resolved);
  return ports.flatMap((second, i) =>
    ports.slice(0, i).flatMap((first) =>
      (['phase', 'level'] as const).map((face) => ({
        key: `drive:${first}+${second}:${face}`,
        label: `${face} into port ${second} against port ${first}`,
        kind: face === 'phase' ? ('angle' as const) : ('level' as const),
        value: 0,
      })),
    ),
  );
};

/** A range that shows all there is to see. */
export const usualDriving = (key: string): string | undefined => {
  const driving = drivingOf(key);
  return driving && (driving.face === 'phase' ? '-180 deg .. 180 deg : 13' : '-6 dB .. 6 dB : 5');
};

/**
 * The waves that go into the ports, in the order of their numbers; undefined where no axis is about that.
 * @param values of the axes: rad, dB
 */
export function drivenWaves(
  resolved: ResolvedDesign,
  keys: readonly string[],
  values: readonly number[],
): readonly Complex[] | undefined {
  const found = keys.flatMap((key, i) => {
    const driving = drivingOf(key);
    return driving ? [{ ...driving, value: values[i] }] : [];
  });
  if (found.length === 0) return undefined;
  const { first, second } = found[0];
  const of = (face: Driving['face']): number => found.find((d) => d.face === face)?.value ?? 0;
  const size = Math.pow(10, of('level') / 20);
  const wave = { re: size * Math.cos(of('phase')), im: size * Math.sin(of('phase')) };
  return portsOf(resolved).map((port) =>
    port === first ? { re: 1, im: 0 } : port === second ? wave : { re: 0, im: 0 },
  );
}

/** Whether two axes drive other pairs of ports, which no one state does. */
export const contradict = (a: string, b: string): boolean => {
  const [p, q] = [drivingOf(a), drivingOf(b)];
  return p !== undefined && q !== undefined && (p.first !== q.first || p.second !== q.second);
};
