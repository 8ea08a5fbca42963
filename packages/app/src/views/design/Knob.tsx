import {
  memo,
  useEffect,
  useMemo,
  useRef,
  useState,
  type PointerEvent as ReactPointerEvent,
  type ReactNode,
} from 'react';
import { rangeOf, type Profile, type Tunable } from '@ditch/core/studies';
import { formatQuantity, meantEntry, QuantityError, readQuantity } from '@ditch/core/units';
import { curvePath } from '../../charts/path';
import { Dialog as AriaDialog, DialogTrigger } from 'react-aria-components';
import { TextButton } from '../../controls/basics';
import { Float } from '../../controls/Float';
import { helpHandlers } from '../../controls/help';
import styled from 'styled-components';
import { endMerge } from '../../store/session';
import { InputBox, stepByKey } from '../../controls/QuantityInput';
import { colour } from '../../theme';
import { quantityColours } from './plots';

const TypedBox = styled(InputBox)`
  flex: 1 1 60px;
  width: 60px;
  height: 18px;
  margin-left: -6px;
  border-bottom-color: transparent;
  font-size: 13px;
  font-weight: 600;
`;
const Wrong = styled.span`
  flex: 2 1 0;
  min-width: 0;
  color: ${colour('error')};
  font-size: 11px;
`;

const RangeRow = styled.div`
  display: grid;
  grid-template-columns: auto 90px auto 90px;
  align-items: center;
  gap: 6px;
  margin-bottom: 4px;
  font-size: 12px;
`;

const WIDTH = 144;
const HEIGHT = 24;

type Range = readonly [number, number];

/** The ends between which a value may be moved, as typed. */
export interface Ends {
  readonly from: string;
  readonly to: string;
}

/** What a knob shows: the value's range, and the value where that lies beyond. */
function reachOf(tunable: Tunable): Range {
  const [low, high] = rangeOf(tunable);
  return [Math.min(low, tunable.value), Math.max(high, tunable.value)];
}

interface KnobProps {
  readonly tunable: Tunable;
  readonly profile: Profile | undefined;
  readonly start: number | undefined;
  readonly onMove: (tunable: Tunable, value: number) => void;
  readonly onTake: (key: string) => void;
  readonly onRange: (key: string, ends: Ends | undefined) => void;
  /** The ends it was given, as typed. */
  readonly ends: Ends | undefined;
  /** What moving it does besides. */
  readonly note?: string;
}

/** Share of the range that a slow pointer moves a value per share of the track: as fine as the hand is slow. */
const SLOWEST = 0.06;
/** Pointer speed from which on the value stays under the pointer, px/ms. */
const FAST = 0.5;

/** One value: drag it (slowly for a fine step, Shift for a finer one), step it by the arrow keys, Home brings the start back. */
export const Knob = memo(function Knob({
  tunable,
  profile,
  start,
  onMove,
  onTake,
  onRange,
  ends,
  note,
}: KnobProps) {
  const { value, label, shown } = tunable;
  const drag = useRef<{ x: number; at: number; value: number } | null>(null);
  const [kept, setKept] = useState<Range>(() => reachOf(tunable));
  // The range stays still under the hand, and goes along where the value leaves it.
  const inside = value >= kept[0] && value <= kept[1];
  const range = inside ? kept : reachOf(tunable);
  if (range !== kept) setKept(range);
  useEffect(() => {
    if (!profile || drag.current) return;
    const [low, high] = [profile.x[0], profile.x[profile.x.length - 1]];
    setKept([low, high]);
  }, [profile]);
  const px = (x: number) => ((x - range[0]) / (range[1] - range[0])) * WIDTH;
  const step = (share: number) => onMove(tunable, value + share * (range[1] - range[0]));
  const curves = useMemo(() => {
    if (!profile) return [];
    const [low, high] = profile.ends;
    const toX = (x: number) => ((x - range[0]) / (range[1] - range[0])) * WIDTH;
    const toY = (y: number) =>
      2 + (HEIGHT - 4) * ((high - Math.max(low, Math.min(high, y))) / Math.max(high - low, 1e-9));
    return profile.curves.map((c) => curvePath(profile.x, c.y, toX, toY, HEIGHT, 0));
  }, [profile, range]);
  // Curves keep the colours that they have in the plot they belong to; a single one does not compete with the mark.
  const strokes = curves.length === 1 ? (['trace2'] as const) : quantityColours;
  const watched = profile?.curves.map((c) => c.label).join(', ');
  const onPointerMove = (event: ReactPointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const dx = event.clientX - d.x;
    const speed = Math.abs(dx) / Math.max(1, event.timeStamp - d.at);
    const gain = Math.max(SLOWEST, Math.min(1, speed / FAST)) * (event.shiftKey ? 0.1 : 1);
    const next = d.value + ((dx * gain) / WIDTH) * (range[1] - range[0]);
    drag.current = {
      x: event.clientX,
      at: event.timeStamp,
      value: tunable.min === undefined ? next : Math.max(tunable.min, next),
    };
    if (dx !== 0) onMove(tunable, drag.current.value);
  };
  const held = tunable.expression
    ? ` It is held by ${tunable.expression}; turning it takes the expression\u2019s place.`
    : '';
  const aside = note ?? (tunable.expression && 'follows');
  const keys: Readonly<Record<string, number>> = {
    ArrowRight: 0.01,
    ArrowUp: 0.01,
    ArrowLeft: -0.01,
    ArrowDown: -0.01,
    PageUp: 0.1,
    PageDown: -0.1,
  };
  return (
    <div
      {...helpHandlers(
        label,
        `Drag, slowly for fine steps, Shift for finer ones; arrow keys step, Home goes back to the start. The ${curves.length > 1 ? 'curves are' : 'curve is'} ${watched || 'what the first plot shows'} at f0 over this value: the steeper they run, the more it changes.${held}`,
      )}
    >
      <KnobHead label={label} id={tunable.key} onTake={onTake}>
        <RangeOf tunable={tunable} ends={ends} onRange={onRange} />
      </KnobHead>
      <div className="head">
        <Typed tunable={tunable} onMove={onMove} />
        {profile?.still ? (
          <span className="still" role="status" title={profile.still}>
            moves nothing: {profile.still}
          </span>
        ) : (
          aside !== undefined && (
            <span className="still" title={note}>
              {aside}
            </span>
          )
        )}
      </div>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        height={HEIGHT}
        preserveAspectRatio="none"
        role="slider"
        tabIndex={0}
        aria-label={`tune ${label}`}
        aria-valuenow={value}
        aria-valuemin={range[0]}
        aria-valuemax={range[1]}
        aria-valuetext={shown}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          endMerge();
          drag.current = { x: event.clientX, at: event.timeStamp, value };
        }}
        onPointerMove={onPointerMove}
        onPointerUp={() => {
          drag.current = null;
          endMerge();
        }}
        onBlur={endMerge}
        onKeyDown={(event) => {
          if (event.ctrlKey || event.metaKey) return;
          const share = keys[event.key];
          if (share !== undefined) step(share * (event.shiftKey ? 0.1 : event.altKey ? 10 : 1));
          else if (event.key === 'Home' && start !== undefined) onMove(tunable, start);
          else return;
          event.preventDefault();
        }}
      >
        <rect width={WIDTH} height={HEIGHT} fill={colour('raised')} stroke={colour('rule')} />
        {curves.map((d, i) => (
          <path key={i} d={d} fill="none" stroke={colour(strokes[i % strokes.length])} strokeWidth={1.3} />
        ))}
        {start !== undefined && start !== value && (
          <line
            x1={px(start)}
            x2={px(start)}
            y1={HEIGHT - 7}
            y2={HEIGHT}
            stroke={colour('ruleStrong')}
            strokeWidth={2}
          />
        )}
        <line x1={px(value)} x2={px(value)} y2={HEIGHT} stroke={colour('water')} strokeWidth={2.5} />
      </svg>
    </div>
  );
});

/** The value as text, to be read and to be typed into. */
function Typed({ tunable, onMove }: Pick<KnobProps, 'tunable' | 'onMove'>) {
  const { value, kind, min, label } = tunable;
  // As it would be typed, so that nothing changes under the caret when the hand arrives.
  const text = formatQuantity(value, kind, { digits: 5, typed: true });
  const [draft, setDraft] = useState<{ readonly text: string; readonly problem?: string }>();
  const before = useRef(value);
  const type = (typed: string) => {
    try {
      onMove(tunable, readQuantity(meantEntry(typed, kind), { kind, min }).re);
      setDraft({ text: typed });
    } catch (error) {
      if (!(error instanceof QuantityError)) throw error;
      setDraft({ text: typed, problem: error.message });
    }
  };
  return (
    <>
      <TypedBox
        aria-label={`value of ${label}`}
        aria-invalid={draft?.problem !== undefined}
        title={draft?.problem}
        value={draft?.text ?? text}
        spellCheck={false}
        autoComplete="off"
        onFocus={() => {
          endMerge();
          before.current = value;
        }}
        onChange={(event) => type(event.target.value)}
        onBlur={() => {
          setDraft(undefined);
          endMerge();
        }}
        onKeyDown={(event) => {
          const stepped = stepByKey(event, draft?.text ?? text);
          if (stepped === 'none') return;
          if (stepped) return type(stepped.text);
          if (event.key === 'Enter' && !draft?.problem) {
            endMerge();
            before.current = value;
            setDraft(undefined);
            event.currentTarget.select();
          } else if (event.key === 'Escape' && draft) {
            event.stopPropagation();
            if (value !== before.current) onMove(tunable, before.current);
            setDraft(undefined);
          }
        }}
      />
      {draft?.problem && <Wrong role="alert">{draft.problem}</Wrong>}
    </>
  );
}

const KnobHead = memo(function KnobHead({
  label,
  id,
  onTake,
  children,
}: {
  label: string;
  id: string;
  onTake: (key: string) => void;
  children: ReactNode;
}) {
  return (
    <div className="head">
      <span title={label} style={{ flex: 1 }}>
        {label}
      </span>
      {children}
      <TextButton aria-label={`take ${label} off the strip`} onPress={() => onTake(id)}>
        off
      </TextButton>
    </div>
  );
});

/** The ends between which hand and search may move a value. */
function RangeOf({ tunable, ends, onRange }: Pick<KnobProps, 'tunable' | 'ends' | 'onRange'>) {
  const { key, label, kind } = tunable;
  const [low, high] = rangeOf(tunable);
  const shown = (x: number) => formatQuantity(x, kind, { digits: 4, typed: true });
  const [draft, setDraft] = useState<Ends>();
  const { from, to } = draft ?? ends ?? { from: shown(low), to: shown(high) };
  const problemOf = ({ from, to }: Ends): string | undefined => {
    try {
      const [a, b] = [from, to].map((text) => readQuantity(meantEntry(text, kind), { kind }).re);
      return a < b ? undefined : 'the range must rise';
    } catch (error) {
      if (error instanceof QuantityError) return error.message;
      throw error;
    }
  };
  const problem = draft && problemOf(draft);
  const type = (next: Ends) => {
    setDraft(next);
    if (problemOf(next) === undefined)
      onRange(key, { from: meantEntry(next.from, kind), to: meantEntry(next.to, kind) });
  };
  return (
    <DialogTrigger onOpenChange={() => setDraft(undefined)}>
      <TextButton
        aria-label={`range of ${label}`}
        {...helpHandlers(
          'Range',
          'Between which ends this value is turned and searched. Without a range: half of the value to either side, never narrower than the shop etches.',
        )}
      >
        {ends ? 'range ◆' : 'range'}
      </TextButton>
      <Float>
        <AriaDialog aria-label={`range of ${label}`} style={{ padding: 8, outline: 'none' }}>
          <RangeRow>
            from
            <InputBox
              autoFocus
              aria-label={`${label}, from`}
              value={from}
              onChange={(e) => type({ from: e.target.value, to })}
            />
            to
            <InputBox
              aria-label={`${label}, to`}
              value={to}
              onChange={(e) => type({ from, to: e.target.value })}
            />
          </RangeRow>
          {problem && <Wrong role="alert">{problem}</Wrong>}
          <div>
            <TextButton
              slot="close"
              isDisabled={!ends}
              onPress={() => {
                onRange(key, undefined);
                setDraft(undefined);
              }}
            >
              around where it is
            </TextButton>
          </div>
        </AriaDialog>
      </Float>
    </DialogTrigger>
  );
}
