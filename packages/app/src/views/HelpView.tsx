import { useMemo } from 'react';
import styled from 'styled-components';
import { grow, openNodes } from '@ditch/core/grow';
import { lineKinds } from '@ditch/core/lines';
import { emptyDesign, emptyProject, resolveDesign, scopeHelp } from '@ditch/core/network';
import { parts, type PartDefinition } from '@ditch/core/parts';
import { laminates } from '@ditch/core/stack';
import { colour } from '../theme';
import { Picture } from './design/Picture';

const Page = styled.div`
  max-width: 900px;
  margin: 0 auto;
  padding: 24px;
  h1 {
    font-size: 18px;
  }
  h2 {
    margin: 22px 0 8px;
    font-size: 14px;
  }
  dl {
    display: grid;
    grid-template-columns: 230px minmax(0, 1fr);
    border-top: 1px solid ${colour('rule')};
  }
  dt,
  dd {
    padding: 5px 0;
    border-bottom: 1px solid ${colour('rule')};
  }
  dt {
    padding-right: 16px;
    font-weight: 600;
  }
`;

const Parts = styled.ul`
  li {
    display: grid;
    grid-template-columns: 214px minmax(0, 1fr);
    gap: 16px;
    padding: 8px 0;
    border-top: 1px solid ${colour('rule')};
  }
  li > div {
    height: 92px;
  }
  b,
  small {
    display: block;
  }
  small {
    margin-top: 3px;
    color: ${colour('quiet')};
    font-size: 11px;
  }
`;

/** A part between short lines, as it is grown on the first laminate. */
function Sample({ part }: { part: PartDefinition }) {
  const resolved = useMemo(() => {
    const empty = emptyDesign('sample', laminates[0].id, 'microstrip', '10 GHz');
    const [variant] = part.variants;
    let { design } = grow(empty, undefined, variant.id);
    if (part.kind !== 'port' && !part.carries)
      for (const node of openNodes(design)) {
        const line = grow(design, node, 'line');
        design = {
          ...line.design,
          pieces: line.design.pieces.map((p) =>
            p.id === line.piece
              ? { ...p, held: { z0: design.pieces[1] === undefined ? '50 ohm' : '70 ohm', theta: '35 deg' } }
              : p,
          ),
        };
      }
    return resolveDesign({ ...emptyProject('sample', laminates[0]), designs: [design] }, design);
  }, [part]);
  return <Picture resolved={resolved} />;
}

const keys: readonly (readonly [string, string])[] = [
  ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
  ['Ctrl E', 'export the project file'],
  ['\u2191 \u2193 in a field', 'step the value; Shift ten times finer, Alt ten times coarser'],
  ['Escape in a field', 'back to the value it had'],
  ['drag on a field\u2019s name', 'change the value by pointer; Shift finer'],
  ['Enter on a pin of the copper', 'grow, join or paste there; the first letters choose'],
  ['Enter on a piece', 'select it; Escape lets it go'],
  ['S, M, Delete on a piece', 'split in the middle, mirror, remove and close up'],
  ['Ctrl C on a piece', 'copy it, to be pasted at an open pin of any design'],
  ['\u2190 \u2192 on a handle', 'shorter or narrower, longer or wider; Shift finer'],
  ['double click on a line', 'split it there'],
  ['wheel, drag, 0 on the copper', 'zoom, move, show all'],
  ['\u2190 \u2192 in a chart', 'move the reading cursor; Shift ten samples'],
  ['\u2191 \u2193, page keys in a chart', 'pan'],
  ['+ \u2212 0 in a chart', 'zoom in, zoom out, show all'],
  ['M in a chart', 'set a marker at the cursor'],
  ['\u2190 \u2192 Delete on a marker', 'move it, remove it'],
  [
    '\u2190 \u2192 on an arc of the Smith chart',
    'shorter, longer by 1 %; Shift a tenth of it, Alt ten times',
  ],
  ['drag the end of an arc', 'the piece follows as far as its own arc comes near'],
  [
    '\u2190 \u2192, page keys on the tuning strip',
    'step a value; Shift finer, Alt coarser; Home: back to the start',
  ],
  ['type into a value on the strip', 'Enter keeps it, Escape brings back what was'],
  ['drag on the tuning strip', 'the slower the pointer the finer the step; Shift finer still'],
  ['\u2191 \u2193 on the waterline', 'give copper or response more room'],
];

/** What the keyboard does, what expressions know, what the models are. */
export default function HelpView() {
  return (
    <Page tabIndex={0} role="region" aria-label="How Ditch works">
      <h1>How Ditch works</h1>
      <p>
        A design is copper made of pieces. Each piece has an electrical face (impedance, angle) and a physical
        one (width, length). You hold one side, marked by a dot; the other follows the board, the frequency
        and the named values. The response is computed at the ideal level (dotted) and at the modelled one
        (drawn), and the waterline tells what lies between them. A network is grown on the copper from its
        pins; lengths are measured along the centre lines, to the point where they meet at a junction.
        Retuning trims the copper until the modelled response stands where the ideal one does; the electrical
        faces stay as they are. On the Smith chart the way from the load to the source is drawn piece by
        piece; the end of each arc is a handle, and from any pin of the copper the chart can look into what
        lies beyond. Values on the tuning strip show how the curves of the first plot follow them before they
        are touched; they can be searched for what keeps the limits of all plots.
      </p>
      <h2>Keys</h2>
      <dl>{keys.map(([key, about]) => [<dt key={key}>{key}</dt>, <dd key={`${key}-about`}>{about}</dd>])}</dl>
      <h2>Expressions</h2>
      <p>
        Every field takes a quantity with its unit or an expression of the design’s named values. Dimensions
        are checked.
      </p>
      <dl>
        {scopeHelp.map((s) => [<dt key={s.name}>{s.name}</dt>, <dd key={`${s.name}-about`}>{s.about}</dd>])}
      </dl>
      <h2>Lines</h2>
      <dl>
        {Object.values(lineKinds).map((k) => [
          <dt key={k.id}>{k.name}</dt>,
          <dd key={`${k.id}-about`}>{k.about}</dd>,
        ])}
      </dl>
      <h2>Parts</h2>
      <Parts>
        {[...parts.values()].map((p) => (
          <li key={p.kind}>
            <div>
              <Sample part={p} />
            </div>
            <p>
              <b>{p.name}</b>
              {p.about}
              {p.source && <small>{p.source}</small>}
            </p>
          </li>
        ))}
      </Parts>
    </Page>
  );
}
