import styled from 'styled-components';
import { lineKinds } from '@ditch/core/lines';
import { scopeHelp } from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { colour } from '../theme';

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

const keys: readonly (readonly [string, string])[] = [
  ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
  ['Ctrl E', 'export the project file'],
  ['\u2191 \u2193 in a field', 'step the value; Shift ten times finer, Alt ten times coarser'],
  ['Escape in a field', 'back to the value it had'],
  ['drag on a field\u2019s name', 'change the value by pointer; Shift finer'],
  ['\u2190 \u2192 in a chart', 'move the reading cursor; Shift ten samples'],
  ['\u2191 \u2193, page keys in a chart', 'pan'],
  ['+ \u2212 0 in a chart', 'zoom in, zoom out, show all'],
  ['M in a chart', 'set a marker at the cursor'],
  ['\u2190 \u2192 Delete on a marker', 'move it, remove it'],
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
        (drawn), and the waterline tells what lies between them.
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
      <dl>
        {[...parts.values()].map((p) => [
          <dt key={p.kind}>{p.name}</dt>,
          <dd key={`${p.kind}-about`}>{p.about}</dd>,
        ])}
      </dl>
    </Page>
  );
}
