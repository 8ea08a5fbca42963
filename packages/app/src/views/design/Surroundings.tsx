import styled from 'styled-components';
import { cutAt, enclosureResonances, fromWalls, sideWalls } from '@ditch/core/artwork';
import { media } from '@ditch/core/lines';
import { enclosureSides, type Enclosure, type EnclosureSide } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { Quiet, TextButton } from '../../controls/basics';
import { QuantityInput } from '../../controls/QuantityInput';
import { useDerived, useLive, type Live } from '../../live';
import { colour } from '../../theme';
import { changeDesign } from '../edits';
import type { Scene } from './stage';

const Row = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
  padding-top: 2px;
  font-size: 12px;
`;
const Sides = styled.div`
  display: grid;
  grid-template-columns: 40px minmax(0, 1fr) 40px minmax(0, 1fr);
  align-items: center;
  gap: 0 8px;
  font-size: 12px;
`;
const View = styled.svg`
  display: block;
  width: 100%;
  margin: 6px 0 2px;
  text {
    fill: ${colour('quiet')};
    font-size: 11px;
  }
`;

/** Walls that are put up stand this far from the copper, in heights of the board; those at ports touch them. */
const ROOM = 8;
const HELP: Readonly<Record<EnclosureSide, string>> = {
  left: 'How far the left wall stands from the leftmost copper; 0 brings it to the ports there.',
  right: 'How far the right wall stands from the rightmost copper; 0 brings it to the ports there.',
  front: 'How far the front wall stands from the copper nearest to it, at the lower edge of the drawing.',
  back: 'How far the back wall stands from the copper nearest to it, at the upper edge of the drawing.',
};

const length = (x: number): string => formatQuantity(x, 'length', { digits: 4 });

/** What stands around the copper, where there is a board. */
function aroundOf({ resolved: { stack, medium } }: Scene) {
  if (!stack) return undefined;
  const { height, cover } = stack.substrate;
  const isStripline = media[medium].grounds === 2;
  return { isStripline, height, lid: isStripline || !Number.isFinite(cover) ? undefined : cover };
}

/** The box in numbers, for its picture. */
function boxOf(scene: Scene) {
  const { resolved, layout } = scene;
  const around = aroundOf(scene);
  if (!around) return undefined;
  const port = layout.pieces.find((p) => p.kind === 'port')?.pins[0];
  const cut = cutAt(resolved, layout, (port?.y ?? 0) + 1e-9);
  const walls = sideWalls(resolved, layout);
  const { x, width } = layout.box;
  return {
    ...around,
    cut,
    walls,
    from: walls?.x0 ?? x - 0.12 * width,
    to: walls?.x1 ?? x + 1.12 * width,
    resonances: enclosureResonances(resolved, layout),
  };
}

const WIDE = 308;
const TALL = 84;
const LEFT = 8;

/** A cut through the board at port 1, from the left to the right: what stands around the copper. Upwards it is drawn larger. */
function Cut({ box }: { box: NonNullable<ReturnType<typeof boxOf>> }) {
  const { isStripline, height, lid, cut, walls, from, to } = box;
  const across = (x: number) => LEFT + ((x - from) / (to - from)) * (WIDE - 2 * LEFT);
  const ground = TALL - 12;
  // What is thin is still seen, what is tall still fits.
  const share = lid === undefined ? 0.35 : Math.min(0.6, Math.max(0.16, height / (height + lid)));
  const room = ground - 18;
  const surface = isStripline ? ground - room / 2 : ground - share * room;
  const top = isStripline || lid !== undefined ? 18 : 8;
  const closed = isStripline || lid !== undefined;
  const words = [
    isStripline ? `between two planes ${length(height)} apart` : `board ${length(height)}`,
    isStripline ? '' : lid === undefined ? 'open above' : `lid ${length(lid)} above it`,
    walls ? `walls ${length(walls.x1 - walls.x0)} apart` : 'open to the sides',
  ].filter(Boolean);
  return (
    <View viewBox={`0 0 ${WIDE} ${TALL}`} role="img" aria-label={`Cut at port 1: ${words.join(', ')}`}>
      <rect
        x={LEFT}
        y={isStripline ? top : surface}
        width={WIDE - 2 * LEFT}
        height={ground - (isStripline ? top : surface)}
        fill={colour('laminate')}
      />
      {cut.map(([a, b]) => (
        <rect
          key={a}
          className="strip"
          x={across(a)}
          y={surface - 3}
          width={Math.max(1, across(b) - across(a))}
          height={3}
          fill={colour('copper')}
        />
      ))}
      <path
        className="metal"
        d={
          `M${LEFT} ${ground}H${WIDE - LEFT}` +
          (closed ? `M${LEFT} ${top}H${WIDE - LEFT}` : '') +
          (walls ? `M${LEFT} ${ground}V${top}M${WIDE - LEFT} ${ground}V${top}` : '')
        }
        fill="none"
        stroke={colour('ink')}
        strokeWidth={2}
        strokeLinecap="square"
      />
      {!isStripline && (
        <text x={WIDE / 2} y={lid === undefined ? 16 : top - 5} textAnchor="middle">
          {lid === undefined ? 'open above' : `lid ${length(lid)} above the board`}
        </text>
      )}
      {walls && (
        <text x={WIDE / 2} y={isStripline ? top - 5 : (top + surface) / 2 + 4} textAnchor="middle">
          {length(walls.x1 - walls.x0)} × {length(walls.y1 - walls.y0)} inside
        </text>
      )}
    </View>
  );
}

/** What stands around the copper: lid and side walls in a cut, what the box does inside of the sweep. */
export function Surroundings({ scene }: { scene: Live<Scene> }) {
  const { id, enclosure, problems, around, hasCopper, box } = useLive(
    useDerived(() => {
      const { design, resolved, layout } = scene.value;
      const around = aroundOf(scene.value);
      return {
        id: design.id,
        enclosure: design.enclosure,
        problems: resolved.problems.filter((p) => p.place.kind === 'enclosure'),
        around,
        hasCopper: layout.pieces.some((p) => p.copper.length > 0),
        // The picture is worked out where there is something to be seen.
        box: design.enclosure || around?.lid !== undefined ? boxOf(scene.value) : undefined,
      };
    }, [scene]),
  );
  const put = (to: Enclosure | undefined, label: string, merge?: string) =>
    changeDesign(id, label, { enclosure: to }, merge);
  const problemAt = (side: EnclosureSide) =>
    problems.find((p) => p.place.kind === 'enclosure' && p.place.side === side)?.message;
  const putUp = () => {
    const { layout, resolved } = scene.peek();
    // Walls that touch the copper on every side: where a port lies on one it stays.
    const touching = sideWalls({ ...resolved, enclosure: { left: 0, right: 0, front: 0, back: 0 } }, layout);
    if (!touching) return;
    const ports = layout.pieces.filter((p) => p.kind === 'port').map(({ pins: [at] }) => at);
    const room = formatQuantity(ROOM * (resolved.stack?.substrate.height ?? 1e-3), 'length', {
      digits: 1,
      typed: true,
    });
    const at = (side: EnclosureSide) =>
      ports.some((p) => Math.abs(fromWalls(touching, p)[side]) < 1e-9) ? '0 mm' : room;
    put({ left: at('left'), right: at('right'), front: at('front'), back: at('back') }, 'put walls around');
  };
  const hasLid = around?.lid !== undefined;
  return (
    <div role="group" aria-label="Surroundings">
      <Row>
        <Quiet>
          {enclosure
            ? 'Side walls, from the copper'
            : hasLid || around?.isStripline
              ? 'Open to the sides'
              : 'Open above and to the sides'}
        </Quiet>
        {enclosure ? (
          <TextButton onPress={() => put(undefined, 'take the walls away')}>take away</TextButton>
        ) : (
          <TextButton isDisabled={!around || !hasCopper} onPress={putUp}>
            put walls around
          </TextButton>
        )}
      </Row>
      {enclosure && (
        <Sides>
          {enclosureSides.map((side) => (
            <label key={side} style={{ display: 'contents' }}>
              <span>{side}</span>
              <QuantityInput
                label={`distance of the wall, ${side}`}
                kind="length"
                help={HELP[side]}
                value={enclosure[side]}
                error={problemAt(side)}
                onChange={(text) => put({ ...enclosure, [side]: text }, 'move a wall', `enclosure:${side}`)}
              />
            </label>
          ))}
        </Sides>
      )}
      {box && <Cut box={box} />}
      {enclosure && box && (
        <Quiet>
          {box.resonances.length === 0
            ? box.lid === undefined && !box.isStripline
              ? 'Without a lid it does not resonate.'
              : 'No resonance of the box inside of the sweep.'
            : `The box resonates at ${box.resonances
                .slice(0, 6)
                .map((f) => formatQuantity(f, 'frequency', { digits: 4 }))
                .join(', ')}${box.resonances.length > 6 ? ', \u2026' : ''}.`}
        </Quiet>
      )}
    </div>
  );
}
