import styled from 'styled-components';
import { boardFor, LANDS, shopFields, shopProblem, type What } from '@ditch/core/making';
import type { Project } from '@ditch/core/network';
import { readStackField, stackFields } from '@ditch/core/stack';
import { SectionTitle } from '../../controls/basics';
import { helpHandlers } from '../../controls/help';
import { NameInput } from '../../controls/NameInput';
import { QuantityInput } from '../../controls/QuantityInput';
import { colour } from '../../theme';
import { setStackField } from '../edits';
import { setLands, setShop, shop } from './panelEdits';
import { Fields } from './PanelForm';

const Part = styled.section`
  padding: 12px 16px;
  border-bottom: 1px solid ${colour('rule')};
`;

/** What the shop can make: its own limits, and those of the board, which stand with the board. */
export function ShopForm({ project, what }: { project: Project; what: What }) {
  const own = shop(project);
  const stack = boardFor(project, what)?.stack;
  return (
    <Part aria-label="Shop">
      <SectionTitle>Shop</SectionTitle>
      <Fields>
        <span>Name</span>
        <NameInput label="Name of the shop" value={own.name} onChange={(name) => setShop('name', name)} />
        {stack &&
          (['minWidth', 'minGap'] as const).map((field) => {
            const info = stackFields.find((f) => f.field === field)!;
            const read = readStackField(info, stack[field]);
            return (
              <label key={field} style={{ display: 'contents' }}>
                <span>{info.label}</span>
                <QuantityInput
                  label={info.label}
                  help={`${info.help} It stands with the board, ${stack.name}.`}
                  kind="length"
                  value={stack[field]}
                  error={typeof read === 'number' ? undefined : read.message}
                  onChange={(text) => setStackField(stack.id, field, text)}
                />
              </label>
            );
          })}
        {shopFields.map((info) => (
          <label key={info.field} style={{ display: 'contents' }}>
            <span>{info.label}</span>
            <QuantityInput
              label={info.label}
              help={info.help}
              kind={info.field === 'drills' ? undefined : 'length'}
              value={own[info.field]}
              error={shopProblem(info.field, own[info.field])}
              onChange={(text) => setShop(info.field, text)}
            />
          </label>
        ))}
        <span>Lands</span>
        <label {...helpHandlers('Lands', LANDS)}>
          <input
            type="checkbox"
            checked={own.lands === true}
            onChange={(event) => setLands(event.target.checked)}
          />{' '}
          added around holes
        </label>
      </Fields>
    </Part>
  );
}
