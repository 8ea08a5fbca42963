import { intended, levels, liveLevels } from '@ditch/core/levels';
import { enclosureResonances, sideWalls, type Layout } from '@ditch/core/artwork';
import type { DataBlock, Design, Plot, Project, ResolvedDesign } from '@ditch/core/network';
import { readCoupler, readFilter, type FilterReading, type Roles } from '@ditch/core/plots';
import type { SData } from '@ditch/core/results';
import { formatQuantity } from '@ditch/core/units';
import type { SmithArc } from '../../charts/SmithPath';
import type { ChartMarker, GoalBand, Tick } from '../../charts/types';
import { derived, sameEntries, type Live } from '../../live';
import { perData } from './perData';
import { plotsOf, rolesFrom, sourcesOf, type LevelData, type Source } from './plots';
import type { Aside, Scene } from './stage';
import type { Reading } from './Waterline';

/** What the plots of a design show, worked out of its scene piece by piece: each is another only when it says something else. */
export interface Pictures {
  readonly scene: Live<Scene>;
  /** The response waits for an error to be mended. */
  readonly blocked: Live<boolean>;
  /** The curves belong to values that have changed since. */
  readonly waiting: Live<boolean>;
  /** What each level answers, the least true to the copper first. */
  readonly answers: Live<readonly LevelData[]>;
  /** The level that is asked for. */
  readonly solved: Live<Scene['solved']>;
  /** What each level says of the match. */
  readonly readings: Live<readonly Reading[]>;
  readonly data: Live<readonly DataBlock[]>;
  /** Everything that is drawn of the whole. */
  readonly sources: Live<readonly Source[]>;
  /** What a Smith chart sees that looks from elsewhere than port 1. */
  readonly seen: (plot: string) => Live<readonly Source[]>;
  readonly roles: Live<Roles>;
  readonly plots: Live<readonly Plot[]>;
  readonly markers: Live<readonly ChartMarker[]>;
  readonly goal: Live<GoalBand>;
  readonly limits: Live<ResolvedDesign['limits']>;
  /** Where the enclosure resonates. */
  readonly resonances: Live<readonly Tick[]>;
  /** Named values that formulas know. */
  readonly values: Live<ResolvedDesign['values']>;
  readonly arcs: Live<readonly SmithArc[]>;
  readonly pointed: Live<Scene['walked']['pointed']>;
}

/** The copper as it is drawn. */
export interface Artwork {
  readonly project: Project;
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly layout: Layout;
  /** The picture belongs to earlier values. */
  readonly dim: boolean;
}

/** Where the board is seen: as far as its walls, or where the copper is. */
export function boardOf({ resolved, layout }: Pick<Artwork, 'resolved' | 'layout'>): {
  readonly box: Layout['box'];
  readonly walled: boolean;
} {
  const walls = sideWalls(resolved, layout);
  if (!walls) return { box: layout.box, walled: false };
  const { x0, x1, y0, y1 } = walls;
  return { box: { x: x0, y: y0, width: x1 - x0, height: y1 - y0 }, walled: true };
}

/** While an entry is wrong the copper of the last right one stays, dimmed, instead of vanishing under the hand. */
export function artworkOf(scene: Live<Scene>): Live<Artwork> {
  let sound: Artwork | undefined;
  const same = (a: Artwork, b: Artwork) =>
    a.resolved === b.resolved && a.layout === b.layout && a.design === b.design && a.dim === b.dim;
  return derived(() => {
    const { project, design, resolved, layout } = scene.value;
    const now = { project, design, resolved, layout, dim: false };
    const wrong = resolved.problems.some((p) => ['stack', 'value', 'piece'].includes(p.place.kind));
    if (wrong && sound) return { ...sound, project, design, dim: true };
    if (!wrong) sound = now;
    return now;
  }, same);
}

/** Responses inside a band, Hz; the same object where that is all of it. */
function within(data: SData, start: number, stop: number): SData {
  const { freq, ports } = data;
  const low = freq.findIndex((f) => f >= start * (1 - 1e-12));
  let high = freq.length;
  while (high > 0 && freq[high - 1] > stop * (1 + 1e-12)) high--;
  if (low === 0 && high === freq.length) return data;
  if (low < 0 || high <= low)
    return { ...data, freq: freq.slice(0, 0), re: data.re.slice(0, 0), im: data.im.slice(0, 0) };
  const entries = ports * ports;
  return {
    ...data,
    freq: freq.slice(low, high),
    re: data.re.slice(low * entries, high * entries),
    im: data.im.slice(low * entries, high * entries),
  };
}

const inBand = perData(within, (start, stop) => `${start} ${stop}`);
const couplerOf = perData(readCoupler, (roles, f0) => JSON.stringify([roles, f0]));
const filterOf = perData(readFilter, (f0, kind) => `${f0} ${kind}`);

export function picturesOf(scene: Live<Scene>, aside: Live<Aside>): Pictures {
  const dataOf = (id: string): SData | undefined => scene.value.responses.results.get(id)?.data;
  const blocked = derived(() => !scene.value.counted || !scene.value.resolved.sweep);
  const waiting = derived(() => blocked.value || scene.value.responses.waiting);
  const shown = derived(() => scene.value.solved.shown, Object.is);
  const solved = derived(() => {
    const data = shown.value && dataOf('solved');
    return data && inBand(data, shown.value.solution.start, shown.value.solution.stop);
  }, Object.is);
  const past = derived(() => shown.value?.fresh === false, Object.is);
  const answers = derived(
    () =>
      levels.map(({ id }): LevelData =>
        id === 'solved'
          ? { level: id, data: solved.value, ...(past.value && { past: true }) }
          : { level: id, data: dataOf(id) },
      ),
    sameEntries,
  );
  const match = derived(() => {
    const { counted, responses } = scene.value;
    const level = solved.value && !past.value ? 'solved' : counted;
    return level && responses.results.get(level)?.match;
  }, Object.is);
  const data = derived(() => scene.value.project.data, Object.is);
  const influence = derived(() => (aside.value.hovered ? dataOf('influence') : undefined), Object.is);
  const overlays = derived(() => {
    const { overlays } = scene.value.design;
    return overlays.flatMap((id) => data.value.filter((d) => d.id === id));
  }, sameEntries);
  const beside = derived(
    () =>
      (scene.value.design.attempts ?? []).flatMap(({ id, name }) => {
        const data = aside.value.beside.includes(id) ? dataOf(`attempt:${id}`) : undefined;
        return data ? [{ id, name, data }] : [];
      }),
    sameEntries,
  );
  const trial = derived(() => (aside.value.trial ? dataOf('trial') : undefined), Object.is);
  const sources = derived(
    (): readonly Source[] => [
      ...sourcesOf(answers.value, influence.value, overlays.value),
      ...beside.value.map((b): Source => ({ ...b, kind: { role: 'overlay' } })),
      ...(trial.value
        ? [{ id: 'trial', name: 'best so far', kind: { role: 'overlay' }, data: trial.value } as const]
        : []),
    ],
    Object.is,
  );
  const roles = derived(() => rolesFrom(sources.value, scene.value.resolved.f0));
  const readings = derived((): readonly Reading[] => {
    const { responses, resolved } = scene.value;
    // A match that is meant to hold over the whole sweep has no centre to speak of.
    const meant = responses.results.get(intended.id)?.match?.band;
    const everywhere = meant?.openLow && meant.openHigh;
    // What the least true level is meant to do, the others are read for.
    let kind: FilterReading['kind'] | undefined;
    return levels.map((level): Reading => {
      // What was solved before stays, waiting or not; it says itself what it is of.
      const result =
        level.id === 'solved'
          ? solved.value && responses.results.get(level.id)
          : waiting.value
            ? undefined
            : responses.results.get(level.id);
      const coupler =
        result && everywhere && resolved.f0 !== undefined
          ? couplerOf(result.data, roles.value, resolved.f0)
          : undefined;
      const filter =
        result && resolved.f0 !== undefined ? filterOf(result.data, resolved.f0, kind) : undefined;
      kind ??= filter?.kind;
      return {
        level,
        match: result?.match,
        ...(level.id === 'solved' && past.value && { past: true }),
        ...(coupler && { coupler }),
        ...(filter && { filter }),
      };
    });
  });
  return {
    scene,
    blocked,
    waiting,
    answers,
    solved: derived(() => scene.value.solved, Object.is),
    readings,
    data,
    sources,
    seen(plot) {
      const own = derived(
        () => liveLevels.map((l): LevelData => ({ level: l.id, data: dataOf(`plane:${plot}:${l.id}`) })),
        sameEntries,
      );
      const elsewhere = derived(() => scene.value.resolved.planes.some((p) => p.plot === plot));
      return derived(
        () => (elsewhere.value ? sourcesOf(own.value, undefined, []) : sources.value),
        Object.is,
      );
    },
    roles,
    plots: derived(() => plotsOf(scene.value.design, roles.value)),
    markers: derived(() =>
      scene.value.resolved.markers.map((m) => {
        const text = scene.value.design.markers.find((d) => d.id === m.id)?.freq ?? '';
        return {
          id: m.id,
          label: formatQuantity(m.freq, 'frequency', { digits: 5 }),
          x: m.freq,
          fixed: !/^\s*[+\d.]/.test(text),
        };
      }),
    ),
    goal: derived(() => ({
      level: -scene.value.resolved.goal,
      from: match.value?.band?.low,
      to: match.value?.band?.high,
    })),
    limits: derived(() => scene.value.resolved.limits),
    resonances: derived(() => {
      const { resolved, layout } = scene.value;
      return enclosureResonances(resolved, layout).map((x) => ({
        x,
        name: `the enclosure resonates at ${formatQuantity(x, 'frequency', { digits: 4 })}`,
      }));
    }),
    values: derived(() => scene.value.resolved.values, Object.is),
    arcs: derived(() => scene.value.walked.arcs, Object.is),
    pointed: derived(() => scene.value.walked.pointed, Object.is),
  };
}
