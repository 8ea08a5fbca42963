import { useState } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import type { Project } from '@ditch/core/network';
import { laminates, resolveStack, stackFields, type Stack } from '@ditch/core/stack';
import { Button, PrimaryButton, Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { Dialog } from '../../controls/Dialog';
import { HelpLine } from '../../controls/help';
import { colour } from '../../theme';
import { addBoard, copyBoard, removeBoard, resetBoard, usersOf } from '../edits';
import { useProject } from '../hooks';
import { Side, SideScroll } from '../side';
import { StackForm } from '../StackForm';

const Page = styled.div`
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr);
  height: 100%;
`;
const Scroll = styled(SideScroll)`
  padding: 16px;
  h1 {
    font-size: 16px;
    margin-bottom: 8px;
  }
`;
const List = styled.ul`
  margin: 4px 0 20px;
  button.board {
    display: block;
    width: 100%;
    padding: 7px 10px;
    border: 0;
    border-left: 3px solid transparent;
    border-top: 1px solid ${colour('rule')};
    background: none;
    text-align: left;
    cursor: pointer;
  }
  button.board[aria-pressed='true'] {
    border-left-color: ${colour('water')};
    background: ${colour('waterSoft')};
  }
  li.shipped {
    display: flex;
    align-items: baseline;
    justify-content: space-between;
    gap: 12px;
    padding: 5px 10px;
    border-top: 1px solid ${colour('rule')};
  }
  small {
    display: block;
    color: ${colour('quiet')};
    font-size: 11px;
  }
`;
const Sheet = styled.div`
  display: grid;
  grid-template-columns: minmax(330px, 420px) minmax(0, 1fr);
  align-content: start;
  gap: 24px 40px;
  padding: 20px 28px;
  overflow: auto;
  h2 {
    margin-bottom: 6px;
  }
  table {
    border-collapse: collapse;
    font-size: 12px;
  }
  th,
  td {
    padding: 4px 18px 4px 0;
    border-top: 1px solid ${colour('rule')};
    text-align: left;
    font-weight: 400;
  }
  thead th {
    color: ${colour('quiet')};
    font-size: 11px;
    border: 0;
  }
`;
const Actions = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 14px;
`;

/** The laminate that a board began as: the one of its name, in the stock that ships. */
const shippedLike = (stack: Stack): Stack | undefined =>
  laminates.find((l) => l.id === stack.id || l.name === stack.name);

/** What a board has otherwise than the laminate that ships under its name. */
const changesOf = (stack: Stack) => {
  const shipped = shippedLike(stack);
  return shipped
    ? stackFields.filter((f) => (stack[f.field] ?? '').trim() !== (shipped[f.field] ?? '').trim())
    : [];
};

const inUse = (project: Project, stack: Stack): string =>
  usersOf(project, stack.id).join(', ') || 'nothing uses it';

/** The boards of a project: what they are, who uses them, how they differ from what ships. */
export default function BoardsView() {
  const project = useProject();
  const [chosenId, setChosen] = useState<string>();
  const [doomed, setDoomed] = useState(false);
  const stack = project.stacks.find((s) => s.id === chosenId) ?? project.stacks[0];
  const shipped = shippedLike(stack);
  const changes = changesOf(stack);
  const users = usersOf(project, stack.id);
  const medium =
    project.designs.find((d) => d.stack === stack.id)?.medium ??
    (project.line.stack === stack.id ? project.line.medium : 'microstrip');
  const { problems } = resolveStack(stack, medium);
  return (
    <Page>
      <Side>
        <Scroll>
          <h1>Boards</h1>
          <SectionTitle>Of this project</SectionTitle>
          <List>
            {project.stacks.map((s) => (
              <li key={s.id}>
                <button
                  type="button"
                  className="board"
                  aria-pressed={s.id === stack.id}
                  onClick={() => setChosen(s.id)}
                >
                  {s.name}
                  <small>
                    {s.er} · {s.height} · {s.thickness}
                    {changesOf(s).length > 0 && ' · changed'}
                  </small>
                  <small>{inUse(project, s)}</small>
                </button>
              </li>
            ))}
          </List>
          <SectionTitle>That ship</SectionTitle>
          <List>
            {laminates.map((l) => (
              <li key={l.id} className="shipped">
                <span>
                  {l.name}
                  <small>
                    {l.er} · {l.height} · {l.thickness}
                  </small>
                </span>
                {project.stacks.some((s) => s.id === l.id) ? (
                  <Quiet>in the project</Quiet>
                ) : (
                  <TextButton
                    aria-label={`add ${l.name} to the project`}
                    onPress={() => setChosen(addBoard(l))}
                  >
                    add
                  </TextButton>
                )}
              </li>
            ))}
          </List>
        </Scroll>
        <HelpLine idle="A change of a board is followed by every design on it. A shipped laminate that is changed becomes the project's own." />
      </Side>
      <Sheet>
        <div>
          <StackForm medium={medium} stack={stack} problems={problems} onIdentity={setChosen} />
          <Actions>
            <Button onPress={() => setChosen(copyBoard(project, stack))}>Copy this board</Button>
            <Button
              isDisabled={users.length > 0 || project.stacks.length === 1}
              onPress={() => setDoomed(true)}
            >
              Remove it
            </Button>
          </Actions>
          {users.length > 0 && (
            <p style={{ marginTop: 10 }}>
              <Quiet>Used by {users.join(', ')}; a board in use stays.</Quiet>
            </p>
          )}
        </div>
        <div>
          <SectionTitle>Against what ships</SectionTitle>
          {!shipped ? (
            <Quiet>No laminate of this name ships; this board is the project’s own.</Quiet>
          ) : changes.length === 0 ? (
            <Quiet>It is {shipped.name} as it ships.</Quiet>
          ) : (
            <>
              <table>
                <thead>
                  <tr>
                    <th scope="col" aria-label="property" />
                    <th scope="col">here</th>
                    <th scope="col">as it ships</th>
                  </tr>
                </thead>
                <tbody>
                  {changes.map((f) => (
                    <tr key={f.field}>
                      <th scope="row">{f.label}</th>
                      <td>
                        <b>{stack[f.field] || 'none'}</b>
                      </td>
                      <td>{shipped[f.field] || 'none'}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Actions>
                <Button onPress={() => resetBoard(stack, shipped)}>Set it back to what ships</Button>
              </Actions>
            </>
          )}
          <SectionTitle style={{ marginTop: 22 }}>Designs on it</SectionTitle>
          <ul>
            {project.designs
              .filter((d) => d.stack === stack.id)
              .map((d) => (
                <li key={d.id}>
                  <Link to={`/p/${project.id}/design/${d.id}`}>{d.name}</Link>
                </li>
              ))}
          </ul>
        </div>
      </Sheet>
      <Dialog title={`Remove \u201C${stack.name}\u201D?`} open={doomed} onClose={() => setDoomed(false)}>
        <p>Nothing uses this board. Undo brings it back.</p>
        <Actions>
          <PrimaryButton
            onPress={() => {
              removeBoard(stack);
              setDoomed(false);
            }}
          >
            Remove
          </PrimaryButton>
          <Button onPress={() => setDoomed(false)}>Keep it</Button>
        </Actions>
      </Dialog>
    </Page>
  );
}
