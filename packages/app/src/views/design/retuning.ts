import { useEffect, useMemo, useRef, useState } from 'react';
import { alone, type Design, type Project } from '@ditch/core/network';
import { studyWords, type Retuned, type StudyId } from '@ditch/core/studies';
import { run, runApart, type Steering } from '../../bridge/bridge';
import type { SearchState } from '../../bridge/jobs';
import { useHandler } from '../../controls/stable';
import { editDesign, say } from '../../store/session';
import { keepState } from '../edits';

/** How a search is made: near to where the values are, or over their whole ranges first. */
export type Width = 'near' | 'wide';

/** A retuning or a search for limits under way, or its result waiting to be taken. */
export interface Retuning {
  /** Share done while it runs. */
  readonly progress: number | undefined;
  /** What the one under way is for. */
  readonly aim: StudyId | undefined;
  /** Where a search for limits stands. */
  readonly seen: SearchState | undefined;
  /** Whether it is held back for a moment. */
  readonly held: boolean;
  /** Whether it looks over the whole ranges. */
  readonly width: Width;
  readonly result: Retuned | undefined;
  readonly start: (aim: StudyId, width?: Width) => void;
  readonly stop: () => void;
  readonly hold: (on: boolean) => void;
  /** Ends it with what it has found. */
  readonly finish: () => void;
  readonly take: () => void;
  /** Keeps the result as an attempt of the design, which stays as it is. */
  readonly keep: () => void;
  readonly discard: () => void;
}

/** A design with what retuning has moved since `from`; what was edited meanwhile stays. */
export const takenOver = (design: Design, from: Design, retuned: Design): Design => ({
  ...design,
  values: design.values.map((v) => {
    const was = from.values.find((x) => x.name === v.name);
    const is = retuned.values.find((x) => x.name === v.name);
    return was && is && was.value !== is.value ? { ...v, value: is.value } : v;
  }),
  pieces: design.pieces.map((p) => {
    const was = from.pieces.find((x) => x.id === p.id);
    const is = retuned.pieces.find((x) => x.id === p.id);
    if (!was || !is || was.held === is.held) return p;
    const held = { ...p.held };
    for (const face of new Set([...Object.keys(was.held), ...Object.keys(is.held)])) {
      if (was.held[face] === is.held[face]) continue;
      if (is.held[face] === undefined) delete held[face];
      else held[face] = is.held[face];
    }
    return { ...p, held };
  }),
});

/** Seeds of the searches over whole ranges that run beside one another: the same on every machine. */
const SEEDS = [1, 2] as const;

/** Of several searches beside one another the state of all: the best of any, and what all have tried. */
function together(seen: readonly (SearchState | undefined)[]): SearchState | undefined {
  const there = seen.filter((s) => s !== undefined);
  if (there.length === 0) return undefined;
  const best = there.reduce((a, b) => (b.miss < a.miss ? b : a));
  const evaluations = there.reduce((n, s) => n + s.evaluations, 0);
  const scale = evaluations / best.evaluations;
  return { ...best, evaluations, trail: best.trail.map(([n, miss]) => [Math.round(n * scale), miss]) };
}

const lastMiss = (r: Retuned): number => r.trail?.at(-1)?.[1] ?? Infinity;

interface Found {
  readonly aim: StudyId;
  readonly from: Design;
  readonly retuned: Retuned;
}

/**
 * Runs studies in workers and holds a result until it is taken, kept or discarded.
 * @param now what is to be retuned, when it begins
 */
export function useRetuning(now: () => { readonly project: Project; readonly design: Design }): Retuning {
  const [progress, setProgress] = useState<number>();
  const [found, setFound] = useState<Found>();
  const [aim, setAim] = useState<StudyId>();
  const [width, setWidth] = useState<Width>('near');
  const [seen, setSeen] = useState<SearchState>();
  const [held, setHeld] = useState(false);
  const job = useRef<AbortController | undefined>(undefined);
  const steering = useRef<Steering[]>([]);
  const start = useHandler((aim: StudyId, width: Width = 'near') => {
    job.current?.abort();
    const { project, design } = now();
    setAim(aim);
    setWidth(width);
    setFound(undefined);
    setSeen(undefined);
    setHeld(false);
    const own = new AbortController();
    job.current = own;
    setProgress(0);
    const request = { project: alone(project, { ...design, attempts: [] }), design, study: aim };
    const { signal } = own;
    const search = () => {
      const seeds = width === 'wide' ? SEEDS : [undefined];
      const states = new Array<SearchState | undefined>(seeds.length).fill(undefined);
      const shares = new Array<number>(seeds.length).fill(0);
      steering.current = [];
      return Promise.all(
        seeds.map((seed, i) =>
          runApart('study', seed === undefined ? request : { ...request, seed }, {
            signal,
            onSteering: (s) => steering.current.push(s),
            onProgress(done, told) {
              shares[i] = done;
              if (told) states[i] = told as SearchState;
              setProgress(Math.min(...shares));
              setSeen(together(states));
            },
          }),
        ),
      );
    };
    (aim === 'limits'
      ? search()
      : run('study', request, { signal, onProgress: setProgress }).then((r) => [r])
    )
      .then((readings) => {
        if (signal.aborted) return;
        const values = readings.flatMap((r) => ('value' in r ? [r.value] : []));
        const [first] = readings;
        if (values.length > 0)
          setFound({
            aim,
            from: design,
            retuned: values.reduce((a, b) => (lastMiss(b) < lastMiss(a) ? b : a)),
          });
        else if ('problem' in first) say(`${studyWords[aim].refused}: ${first.problem}.`);
      })
      .catch((error: unknown) => {
        if (signal.aborted) return;
        own.abort();
        say(`The search failed: ${error instanceof Error ? error.message : String(error)}.`);
      })
      .finally(() => {
        if (job.current !== own) return;
        setProgress(undefined);
        setSeen(undefined);
      });
  });
  // A page that is left needs no result.
  useEffect(() => () => job.current?.abort(), []);
  const stop = useHandler(() => {
    job.current?.abort();
    setProgress(undefined);
    setSeen(undefined);
  });
  const hold = useHandler((on: boolean) => {
    setHeld(on);
    for (const s of steering.current) s.hold(on);
  });
  const finish = useHandler(() => {
    for (const s of steering.current) s.finish();
  });
  const take = useHandler(() => {
    if (!found) return;
    const { aim, from, retuned } = found;
    editDesign(from.id, studyWords[aim].edit, (d) => takenOver(d, from, retuned.design));
    setFound(undefined);
  });
  const keep = useHandler(() => {
    if (!found) return;
    const { aim, from, retuned } = found;
    const name = `${studyWords[aim].edit}, ${new Date().toLocaleTimeString('en-GB')}`;
    if (!keepState(from.id, name, 'keep an attempt', (d) => takenOver(d, from, retuned.design))) return;
    say(`Kept as the attempt \u201C${name}\u201D; the design is as it was.`);
    setFound(undefined);
  });
  const discard = useHandler(() => setFound(undefined));
  return useMemo(
    () => ({
      progress,
      aim,
      seen,
      held,
      width,
      result: found?.retuned,
      start,
      stop,
      hold,
      finish,
      take,
      keep,
      discard,
    }),
    [progress, aim, seen, held, width, found, start, stop, hold, finish, take, keep, discard],
  );
}
