import { useEffect, useMemo, useRef, useState } from 'react';
import { alone, type Design, type Project } from '@ditch/core/network';
import type { Accuracy } from '@ditch/core/planar';
import { studyWords, type Retuned, type StudyId, type StudyWords } from '@ditch/core/studies';
import type { SolvedRetuned, SolvedStep } from '@ditch/core/studies/solved';
import { run, runApart, type Steering } from '../../bridge/bridge';
import type { Reading, SearchState } from '../../bridge/jobs';
import { useHandler } from '../../controls/stable';
import { editDesign, say } from '../../store/session';
import { keepState } from '../edits';

/** How a search is made: near to where the values are, or over their whole ranges first. */
export type Width = 'near' | 'wide';

/** What a retuning is for: a study of the modelled level, or the solved response by few solutions. */
export type Aim = StudyId | 'solved';
/** What the solved response is brought to. */
export type Towards = 'ideal' | 'limits';

const WORDS: Readonly<Record<Aim, StudyWords>> = {
  ...studyWords,
  solved: { edit: 'retune to solved', refused: 'Retuning by solving is not possible' },
};

/** A retuning or a search for limits under way, or its result waiting to be taken. */
export interface Retuning {
  /** Share done while it runs. */
  readonly progress: number | undefined;
  /** What the one under way is for. */
  readonly aim: Aim | undefined;
  /** Solutions so far, of one that solves. */
  readonly steps: readonly SolvedStep[];
  readonly towards: Towards;
  /** Where a search for limits stands. */
  readonly seen: SearchState | undefined;
  /** Whether it is held back for a moment. */
  readonly held: boolean;
  /** Whether it looks over the whole ranges. */
  readonly width: Width;
  readonly result: Retuned | SolvedRetuned | undefined;
  readonly start: (aim: StudyId, width?: Width) => void;
  readonly startSolved: (towards: Towards, accuracy: Accuracy) => void;
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

/** No solution yet. */
const NONE: readonly SolvedStep[] = [];

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
  readonly aim: Aim;
  readonly from: Design;
  readonly retuned: Retuned | SolvedRetuned;
}

/**
 * Runs studies in workers and holds a result until it is taken, kept or discarded.
 * @param now what is to be retuned, when it begins
 */
export function useRetuning(now: () => { readonly project: Project; readonly design: Design }): Retuning {
  const [progress, setProgress] = useState<number>();
  const [found, setFound] = useState<Found>();
  const [aim, setAim] = useState<Aim>();
  const [steps, setSteps] = useState<readonly SolvedStep[]>(NONE);
  const [towards, setTowards] = useState<Towards>('ideal');
  const [width, setWidth] = useState<Width>('near');
  const [seen, setSeen] = useState<SearchState>();
  const [held, setHeld] = useState(false);
  const job = useRef<AbortController | undefined>(undefined);
  const steering = useRef<Steering[]>([]);
  /** Begins one, in place of another. */
  const begin = (aim: Aim, width: Width) => {
    job.current?.abort();
    const { project, design } = now();
    setAim(aim);
    setWidth(width);
    setFound(undefined);
    setSeen(undefined);
    setSteps(NONE);
    setHeld(false);
    const own = new AbortController();
    job.current = own;
    steering.current = [];
    setProgress(0);
    return { own, signal: own.signal, project: alone(project, { ...design, attempts: [] }), design };
  };
  /** Waits for what it comes to. */
  const follow = (
    aim: Aim,
    { own, signal, design: from }: ReturnType<typeof begin>,
    work: Promise<readonly Reading<Retuned | SolvedRetuned>[]>,
  ) =>
    void work
      .then((readings) => {
        if (signal.aborted) return;
        const values = readings.flatMap((r) => ('value' in r ? [r.value] : []));
        const [first] = readings;
        if (values.length > 0)
          setFound({
            aim,
            from,
            retuned: values.reduce((a, b) => (lastMiss(b) < lastMiss(a) ? b : a)),
          });
        else if ('problem' in first) say(`${WORDS[aim].refused}: ${first.problem}.`);
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
  const startSolved = useHandler((towards: Towards, accuracy: Accuracy) => {
    const begun = begin('solved', 'near');
    setTowards(towards);
    const { project, design, signal } = begun;
    follow(
      'solved',
      begun,
      runApart(
        'solvedRetune',
        { project, design, towards, accuracy },
        {
          signal,
          onSteering: (s) => steering.current.push(s),
          onProgress(done, told) {
            setProgress(done);
            if (told) setSteps(told as readonly SolvedStep[]);
          },
        },
      ).then((r) => [r]),
    );
  });
  const start = useHandler((aim: StudyId, width: Width = 'near') => {
    const begun = begin(aim, width);
    const { project, design, signal } = begun;
    const request = { project, design, study: aim };
    const search = () => {
      const seeds = width === 'wide' ? SEEDS : [undefined];
      const states = new Array<SearchState | undefined>(seeds.length).fill(undefined);
      const shares = new Array<number>(seeds.length).fill(0);
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
    follow(
      aim,
      begun,
      aim === 'limits'
        ? search()
        : run('study', request, { signal, onProgress: setProgress }).then((r) => [r]),
    );
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
    editDesign(from.id, WORDS[aim].edit, (d) => takenOver(d, from, retuned.design));
    setFound(undefined);
  });
  const keep = useHandler(() => {
    if (!found) return;
    const { aim, from, retuned } = found;
    const name = `${WORDS[aim].edit}, ${new Date().toLocaleTimeString('en-GB')}`;
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
      startSolved,
      steps,
      towards,
      stop,
      hold,
      finish,
      take,
      keep,
      discard,
    }),
    [
      progress,
      aim,
      seen,
      held,
      width,
      found,
      start,
      startSolved,
      steps,
      towards,
      stop,
      hold,
      finish,
      take,
      keep,
      discard,
    ],
  );
}
