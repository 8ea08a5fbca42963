import { lazy, memo, Suspense, useRef, useState } from 'react';
import styled from 'styled-components';
import { closest, type Level } from '@ditch/core/levels';
import type { Accuracy } from '@ditch/core/planar';
import type { CouplerReading, FilterReading } from '@ditch/core/plots';
import type { MatchReading } from '@ditch/core/results';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { levelStrokes } from '../../charts/types';
import { byItself, QuietButton, TextButton } from '../../controls/basics';
import { useDerived, useLive, type Live } from '../../live';
import { colour } from '../../theme';
import { setPreferences, usePreferences } from '../hooks';
import type { Towards } from './retuning';
import type { Solved, Solving } from './solving';

const SolvePanel = lazy(() => import('./SolvePanel'));

const Place = styled.div`
  position: relative;
  height: 44px;
`;
const Band = styled.div`
  ${byItself}
  display: flex;
  align-items: center;
  gap: 26px;
  padding: 0 16px;
  background: ${colour('water')};
  color: ${colour('onWater')};
  white-space: nowrap;
  overflow: hidden;
  user-select: none;
  > :not(:first-child) {
    position: relative;
    pointer-events: none;
  }
  button {
    pointer-events: auto !important;
  }
  svg {
    flex: none;
  }
  b {
    font-weight: 700;
  }
  @media (max-width: 1400px) {
    gap: 16px;
    .band {
      display: none;
    }
  }
  /* What the truest says is said in full as long as there is room. */
  @container work (max-width: 1100px) {
    gap: 14px;
    [data-level]:not([data-level='solved']) .depth {
      display: none;
    }
  }
  @container work (max-width: 800px) {
    gap: 12px;
    .depth {
      display: none;
    }
  }
`;
const Item = styled.span`
  /* What is of before is told by its slant: fainter it could not be read. */
  &[data-past] {
    font-style: italic;
    svg {
      opacity: 0.5;
    }
    b {
      font-weight: 400;
    }
  }
  display: inline-flex;
  align-items: center;
  gap: 8px;
`;
const Difference = styled.span`
  margin-left: auto;
  min-width: 0;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  overflow: hidden;
  line-height: 1.25;
  text-align: right;
  white-space: normal;
  @container work (max-width: 1100px) {
    -webkit-line-clamp: 3;
    font-size: 11px;
    line-height: 1.2;
  }
`;
const SolveBox = styled.span`
  display: inline-flex;
  flex: none;
  gap: 4px;
  margin-left: -6px;
  button {
    padding: 0 8px;
  }
`;
const Stop = styled(TextButton)`
  color: inherit;
`;
const Retune = styled(QuietButton)`
  flex: none;
  border-color: currentcolor;
  color: inherit;
  font-weight: 600;
  &[data-hovered],
  &[data-pressed] {
    background: rgb(255 255 255 / 18%);
  }
  &[data-focus-visible] {
    outline-color: currentcolor;
  }
`;
/** The whole band is the handle; what stands on it lets the pointer through, but for its buttons. */
const Handle = styled.div`
  position: absolute;
  inset: 0;
  cursor: row-resize;
  touch-action: none;
  &:focus-visible {
    outline: 2px solid ${colour('onWater')};
    outline-offset: -4px;
  }
`;

const depth = (level: number): string =>
  level < -80 ? 'below \u221280 dB' : `${formatNumber(Math.round(level * 1e3) / 1e3, 3)}\u2009dB`;
/** A reflection that never falls below this, dB, is no match whose place could be told. */
const NO_MATCH = -3;
const width = (match: MatchReading): string => {
  if (!match.band) return 'goal not met';
  const { low, high, openLow, openHigh } = match.band;
  return `band ${openLow || openHigh ? 'over ' : ''}${formatQuantity(high - low, 'frequency', { digits: 3 })}`;
};

/** What a level says of the match; of a coupler, which is matched everywhere, what it takes and from which side. */
export interface Reading {
  readonly level: Level;
  readonly match: MatchReading | undefined;
  readonly coupler?: CouplerReading;
  readonly filter?: FilterReading;
  /** Of an earlier state. */
  readonly past?: boolean;
}

/** The band of a filter, in words. */
export function bandOf({ low, high }: FilterReading): string {
  const f = (x: number) => formatQuantity(x, 'frequency', { digits: 4 });
  if (low === undefined) return `to ${f(high!)}`;
  return high === undefined ? `from ${f(low)}` : `${f(low)} to ${f(high)}`;
}

export const decibels = (x: number): string => `${formatNumber(Math.round(x * 100) / 100, 3)}\u2009dB`;
/** Directivity without end is that of a network without loss and error. */
export const directed = (x: number): string =>
  x > 80 ? 'directivity without limit' : `directivity ${decibels(x)}`;

/** In words: what became of a coupler on the way from one level to the next. */
function coupled(name: string, from: CouplerReading, to: CouplerReading): string {
  const less = to.coupling - from.coupling;
  const coupling =
    Math.abs(less) < 0.02
      ? `coupling as ${name}`
      : `coupling ${decibels(Math.abs(less))} ${less > 0 ? 'weaker' : 'stronger'} than ${name}`;
  return `${coupling}, ${directed(to.directivity)}`;
}

/** In words: where a filter's edges went. */
function shifted(name: string, from: FilterReading, to: FilterReading): string {
  const edges = (r: FilterReading) => [r.low, r.high].filter((x) => x !== undefined);
  const [was, is] = [edges(from), edges(to)];
  if (was.length !== is.length) return '';
  const ratio = (a: number, b: number) => formatNumber(Math.abs(a / b - 1) * 100, 2);
  const middle = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;
  const shift = middle(is) / middle(was) - 1;
  const what = was.length === 2 ? 'centre' : 'edge';
  const where =
    Math.abs(shift) < 5e-4
      ? `the ${what} stays`
      : `${what} ${ratio(middle(is), middle(was))} % ${shift < 0 ? 'below' : 'above'} ${name}`;
  const loss = to.loss - from.loss;
  const lost = loss > 0.005 ? `, ${decibels(loss)} lost` : '';
  if (was.length < 2) return where + lost;
  const [wide, wider] = [was[1] - was[0], is[1] - is[0]];
  return Math.abs(wider / wide - 1) < 5e-3
    ? `${where}, band as ${name}${lost}`
    : `${where}, band ${ratio(wider, wide)} % ${wider < wide ? 'narrower' : 'wider'}${lost}`;
}

/** In words: how far the match of the truest level lies from that of the one below it. */
export function difference(all: readonly Reading[]): string {
  const readings = all.filter((r) => !r.past);
  const [less, more] = readings.filter((r) => r.coupler).slice(-2);
  if (less?.coupler && more?.coupler) return coupled(less.level.name, less.coupler, more.coupler);
  const [meant, made] = readings.filter((r) => r.filter).slice(-2);
  if (meant?.filter && made?.filter) return shifted(meant.level.name, meant.filter, made.filter);
  const [from, to] = readings.filter((r) => r.match).slice(-2);
  if (!from?.match || !to?.match || from.match.level > NO_MATCH || to.match.level > NO_MATCH) return '';
  const { name } = from.level;
  const shift = (to.match.best / from.match.best - 1) * 100;
  const where =
    Math.abs(shift) < 0.05
      ? 'the centre stays'
      : `centre ${formatQuantity(to.match.best, 'frequency', { digits: 4 })}, ${formatNumber(Math.abs(shift), 2)} % ${shift < 0 ? 'below' : 'above'} ${name}`;
  if (!from.match.band || !to.match.band)
    return to.match.band || !from.match.band ? where : `${where}; the goal is lost`;
  const wide =
    ((to.match.band.high - to.match.band.low) / (from.match.band.high - from.match.band.low) - 1) * 100;
  return Math.abs(wide) < 0.5
    ? `${where}, band as ${name}`
    : `${where}, band ${formatNumber(Math.abs(wide), 2)} % ${wide < 0 ? 'narrower' : 'wider'}`;
}

const Items = memo(function Items({ readings }: { readings: Live<readonly Reading[]> }) {
  return useLive(readings).map(({ level, match, coupler, filter, past }) => (
    <Item key={level.id} data-level={level.id} data-past={past}>
      <svg width="22" height="4" aria-hidden="true">
        <line
          x1="1"
          x2="21"
          y1="2"
          y2="2"
          stroke="currentColor"
          strokeLinecap="round"
          {...levelStrokes[level.id]}
        />
      </svg>
      {level.name}
      {match && coupler ? (
        <>
          <b>{decibels(coupler.coupling)}</b>
          <span className="depth">{directed(coupler.directivity)}</span>
          <span className="band">match {depth(-coupler.match)}</span>
        </>
      ) : match && filter ? (
        <>
          {filter.kind === 'stops' && 'stops '}
          <b>{bandOf(filter)}</b>
          <span className="depth">loss {decibels(filter.loss)}</span>
        </>
      ) : match && match.level > NO_MATCH ? (
        <span>no match in sight</span>
      ) : match ? (
        <>
          <b>{formatQuantity(match.best, 'frequency', { digits: 5 })}</b>
          <span className="depth">{depth(match.level)}</span>
          <span className="band">{width(match)}</span>
        </>
      ) : (
        <span>—</span>
      )}
    </Item>
  ));
});

const Words = memo(function Words({
  readings,
  solved,
}: {
  readings: Live<readonly Reading[]>;
  solved: Live<Solved>;
}) {
  const text = useLive(
    useDerived(() => {
      const own = solvedWords(solved.value);
      const between = own?.alone ? '' : difference(readings.value);
      return [own?.text, between].filter(Boolean).join('; ');
    }, [readings, solved]),
  );
  // Where there is no room for all of it, all of it is told to whoever points at it.
  return <span title={text}>{text}</span>;
});

/** What is to be said of the solved level; `alone`: before what lies between the levels. */
function solvedWords({
  refusal,
  failure,
  under,
  shown,
}: Solved): { readonly text: string; readonly alone?: boolean } | undefined {
  if (failure) return { text: `not solved: ${failure}`, alone: true };
  if (under) {
    const found = under.samples === 0 ? 'mesh and ports' : `${under.samples} frequencies`;
    const within = Number.isFinite(under.error) ? `, within ${formatNumber(under.error, 1)}` : '';
    return { text: `solving, ${found}${within}`, alone: true };
  }
  if (shown && !shown.fresh) {
    const [first, ...more] = shown.changes;
    const rest = more.length > 0 ? ` and ${more.length} more` : '';
    return { text: first ? `solved before ${first}${rest}` : 'solved before the copper changed' };
  }
  if (shown && !shown.solution.complete) return { text: 'solved in part' };
  return refusal && shown ? { text: `cannot be solved now: ${refusal}` } : undefined;
}

/** What the button says that asks for the solved level. */
function askedFor({ refusal, under, shown, estimates, known }: Solved, accuracy: Accuracy) {
  const estimate = estimates?.[accuracy];
  const cost =
    typeof estimate === 'object'
      ? `, about ${formatNumber(Math.max(0.1, Number(estimate.seconds.toPrecision(1))))}\u2009s`
      : '';
  const isWhole = shown?.fresh === true && shown.solution.complete;
  return {
    under: under !== undefined,
    isWhole,
    refused: refusal !== undefined,
    known: known || undefined,
    label: under
      ? `${Math.round(under.progress * 100)} % \u00B7 stop`
      : refusal !== undefined
        ? 'Why not solved'
        : shown && !shown.fresh
          ? 'Solve again'
          : shown && !isWhole
            ? 'Go on'
            : `Solve${cost}`,
  };
}

/** Asks for the solved level, and says how far it has come. */
const Solve = memo(function Solve({
  solved: live,
  solving,
  onRetune,
  onPieces,
  onBack,
}: {
  solved: Live<Solved>;
  solving: Solving;
  onRetune: ((towards: Towards, accuracy: Accuracy) => void) | undefined;
  onPieces: () => void;
  onBack: (pieces: readonly string[]) => void;
}) {
  const accuracy = usePreferences((p) => p.accuracy);
  const more = useRef<HTMLButtonElement>(null);
  const [open, setOpen] = useState(false);
  const { under, isWhole, refused, known, label } = useLive(
    useDerived(() => askedFor(live.value, accuracy), [live, accuracy]),
  );
  return (
    <SolveBox>
      {(under || !isWhole) && (
        <Retune
          aria-label={under ? `solving, ${label}` : label}
          onPress={() => (under ? solving.stop() : refused ? setOpen(true) : solving.start())}
        >
          {label}
        </Retune>
      )}
      <Retune
        ref={more}
        aria-label="the solved level: cost, accuracy, result"
        aria-haspopup="dialog"
        aria-expanded={open}
        data-known={known}
        onPress={() => setOpen(true)}
      >
        ▾
      </Retune>
      {open && more.current && (
        <Suspense>
          <SolvePanel
            from={more.current}
            solved={live}
            solving={solving}
            onRetune={onRetune}
            onPieces={onPieces}
            onBack={onBack}
            onClose={() => setOpen(false)}
          />
        </Suspense>
      )}
    </SolveBox>
  );
});

/** The band between copper and response: what each level says in one number, and what lies between them. */
export const Waterline = memo(function Waterline({
  readings,
  solved,
  solving,
  busy,
  onStop,
  onDrag,
  onPieces,
  onBack,
  retuning,
}: {
  /** The least true to the copper first. */
  readings: Live<readonly Reading[]>;
  solved: Live<Solved>;
  solving: Solving;
  /** Share done of a long computation. */
  busy?: number;
  onStop: () => void;
  onDrag: (clientY: number) => void;
  /** Asks which piece makes the difference. */
  onPieces: () => void;
  onBack: (pieces: readonly string[]) => void;
  retuning?: {
    readonly progress: number | undefined;
    readonly start: (aim: 'retune') => void;
    readonly stop: () => void;
    readonly startSolved: (towards: Towards, accuracy: Accuracy) => void;
  };
}) {
  const dragging = useRef(false);
  const matched = useLive(
    useDerived(() => readings.value.some((r) => r.level.id === closest.id && r.match), [readings]),
  );
  const waterline = usePreferences((p) => p.waterline);
  return (
    <Place>
      <Band role="group" aria-label="waterline: what the levels say">
        <Handle
          role="separator"
          aria-label="waterline between copper and response"
          aria-orientation="horizontal"
          aria-valuenow={Math.round(waterline * 100)}
          aria-valuemin={15}
          aria-valuemax={75}
          tabIndex={0}
          onPointerDown={(event) => {
            if (event.button !== 0) return;
            dragging.current = true;
            event.currentTarget.setPointerCapture(event.pointerId);
          }}
          onPointerMove={(event) => dragging.current && onDrag(event.clientY)}
          onPointerUp={() => {
            dragging.current = false;
          }}
          onKeyDown={(event) => {
            const step = { ArrowUp: -0.03, ArrowDown: 0.03 }[event.key];
            if (!step) return;
            event.preventDefault();
            setPreferences({ waterline: Math.min(0.75, Math.max(0.15, waterline + step)) });
          }}
        />
        <Items readings={readings} />
        <Solve
          solved={solved}
          solving={solving}
          onRetune={retuning?.startSolved}
          onPieces={onPieces}
          onBack={onBack}
        />
        <Difference role="status">
          {busy !== undefined ? (
            <>
              computing, {Math.round(busy * 100)} % <Stop onPress={onStop}>stop</Stop>
            </>
          ) : (
            <Words readings={readings} solved={solved} />
          )}
        </Difference>
        {retuning && (
          <RetuneButton
            progress={retuning.progress}
            isDisabled={!matched}
            start={retuning.start}
            stop={retuning.stop}
          />
        )}
      </Band>
    </Place>
  );
});

/** Stands still while the readings beside it change. */
const RetuneButton = memo(function RetuneButton({
  progress,
  isDisabled,
  start,
  stop,
}: {
  progress: number | undefined;
  isDisabled: boolean;
  start: (aim: 'retune') => void;
  stop: () => void;
}) {
  return progress !== undefined ? (
    <Retune onPress={stop}>retuning, {Math.round(progress * 100)} % · stop</Retune>
  ) : (
    <Retune isDisabled={isDisabled} onPress={() => start('retune')}>
      Retune
    </Retune>
  );
});
