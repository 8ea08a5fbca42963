import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { worksWith, type DataBlock, type Design, type Project } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { Button, PrimaryButton, Quiet, SectionTitle, Segments, TextButton } from '../../controls/basics';
import { NameInput } from '../../controls/NameInput';
import { InputBox } from '../../controls/QuantityInput';
import { db } from '../../store/db';
import { chooseTouchstone, exportProject, useCheckpoints } from '../../store/library';
import { addCheckpoint, edit, returnTo, say } from '../../store/session';
import { colour } from '../../theme';
import { LayoutPicture } from '../design/Picture';
import { addData, changeDesign, duplicateDesign, newDesign, removeData, removeDesign } from '../edits';
import { RecipeGroups } from '../recipes/RecipesView';
import { usePreferences, useProject } from '../hooks';
import { useExamined } from '../useExamined';

const Page = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 0 32px;
  max-width: 1240px;
  margin: 0 auto;
  padding: 22px 24px;
`;
const Title = styled(NameInput)`
  grid-column: 1 / -1;
  height: 36px;
  margin-bottom: 14px;
  font-size: 18px;
  font-weight: 600;
  border-bottom-color: transparent;
`;
const Designs = styled.ul`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  gap: 14px;
  margin: 10px 0 16px;
  li {
    border: 1px solid ${colour('rule')};
    background: ${colour('raised')};
  }
`;
const Picture = styled(Link)`
  display: block;
  height: 120px;
`;
const Caption = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 6px 12px;
  border-top: 1px solid ${colour('rule')};
`;
const List = styled.ul`
  margin: 8px 0 20px;
  li {
    display: flex;
    align-items: baseline;
    gap: 12px;
    padding: 6px 0;
    border-top: 1px solid ${colour('rule')};
  }
  li > span:first-child {
    flex: 1;
    min-width: 0;
    overflow-wrap: anywhere;
  }
`;
const NewCheckpoint = styled.form`
  display: flex;
  gap: 8px;
  margin-top: 8px;
`;

function DesignCard({ project, design }: { project: Project; design: Design }) {
  const examined = useExamined(project, design);
  const stack = project.stacks.find((s) => s.id === design.stack);
  return (
    <li>
      <Picture to={`/p/${project.id}/design/${design.id}`} aria-label={`open ${design.name}`}>
        {examined && <LayoutPicture layout={examined.layout} />}
      </Picture>
      <Caption>
        <NameInput
          label={`name of the design ${design.name}`}
          value={design.name}
          onChange={(name) => changeDesign(design.id, 'rename a design', { name }, 'name')}
        />
      </Caption>
      <Caption style={{ borderTop: 0, paddingTop: 0 }}>
        <Quiet style={{ flex: 1 }}>
          {examined?.resolved.f0 !== undefined && `${formatQuantity(examined.resolved.f0, 'frequency')} · `}
          {stack?.name}
          {examined && examined.remarks.length > 0 ? ` \u00B7 ${examined.remarks.length} to review` : ''}
        </Quiet>
        <TextButton aria-label={`Copy ${design.name}`} onPress={() => duplicateDesign(design)}>
          copy
        </TextButton>
        <TextButton aria-label={`Remove ${design.name}`} onPress={() => removeDesign(design)}>
          remove
        </TextButton>
      </Caption>
    </li>
  );
}

function DataList({ project }: { project: Project }) {
  const inUse = (block: DataBlock) => project.designs.find((d) => worksWith(d, block.id));
  const importData = async () => {
    const block = await chooseTouchstone();
    if (block) addData(block);
  };
  return (
    <>
      <SectionTitle>
        Data
        <TextButton onPress={() => void importData()}>import Touchstone</TextButton>
      </SectionTitle>
      <List>
        {project.data.map((block) => {
          const user = inUse(block);
          return (
            <li key={block.id}>
              <span>
                {block.name}
                <br />
                <Quiet>
                  {block.origin}, {block.ports} {block.ports === 1 ? 'port' : 'ports'},{' '}
                  {formatQuantity(block.freq[0], 'frequency')} to{' '}
                  {formatQuantity(block.freq[block.freq.length - 1], 'frequency')}
                </Quiet>
              </span>
              {user ? (
                <Quiet>used by {user.name}</Quiet>
              ) : (
                <TextButton aria-label={`Remove ${block.name}`} onPress={() => removeData(block)}>
                  remove
                </TextButton>
              )}
            </li>
          );
        })}
        {project.data.length === 0 && (
          <li>
            <Quiet>Imported measurements and kept curves stand here.</Quiet>
          </li>
        )}
      </List>
    </>
  );
}

function Checkpoints({ project }: { project: Project }) {
  const checkpoints = useCheckpoints(project.id);
  const [name, setName] = useState('');
  const add = () => {
    addCheckpoint(name.trim() || `Checkpoint of ${new Date().toLocaleString()}`).then(
      () => setName(''),
      () => say('The checkpoint could not be stored. Export the project file to keep this state.'),
    );
  };
  return (
    <>
      <SectionTitle>Checkpoints</SectionTitle>
      <NewCheckpoint
        onSubmit={(event) => {
          event.preventDefault();
          add();
        }}
      >
        <InputBox
          aria-label="name of the checkpoint"
          placeholder="name of this state"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit">Keep</Button>
      </NewCheckpoint>
      <List>
        {checkpoints?.map((c) => (
          <li key={c.id}>
            <span>
              {c.name}
              <br />
              <Quiet>{new Date(c.created).toLocaleString()}</Quiet>
            </span>
            <Link to={`compare/${c.id}`} aria-label={`Compare with ${c.name}`}>
              compare
            </Link>
            <TextButton aria-label={`Return to ${c.name}`} onPress={() => returnTo(c.name, c.project)}>
              return
            </TextButton>
            <TextButton
              aria-label={`Delete checkpoint ${c.name}`}
              onPress={() => void db.checkpoints.delete(c.id)}
            >
              delete
            </TextButton>
          </li>
        ))}
        {checkpoints?.length === 0 && (
          <li>
            <Quiet>A checkpoint keeps the whole project under a name, to return to at any time.</Quiet>
          </li>
        )}
      </List>
    </>
  );
}

/** A project on one page: its designs with their copper, its data, its checkpoints. */
export default function OverviewView() {
  const project = useProject();
  const navigate = useNavigate();
  const preferred = usePreferences((p) => p.lengths);
  return (
    <Page>
      <Title
        label="name of the project"
        value={project.name}
        onChange={(name) => edit('rename the project', (p) => ({ ...p, name }), 'project-name')}
      />
      <div>
        <SectionTitle>Designs</SectionTitle>
        <Designs>
          {project.designs.map((d) => (
            <DesignCard key={d.id} project={project} design={d} />
          ))}
        </Designs>
        <div style={{ display: 'flex', gap: 8 }}>
          <PrimaryButton onPress={() => void navigate('recipes')}>New design by a recipe</PrimaryButton>
          <Button onPress={() => void navigate(`design/${newDesign(project)}`)}>Empty design</Button>
          <Button onPress={() => void exportProject(project)}>Export the project file</Button>
        </div>
        {project.designs.length === 0 && (
          <div style={{ marginTop: 18 }}>
            <Quiet>
              No design yet. A recipe makes one from a goal, on{' '}
              {project.stacks.find((s) => s.id === project.line.stack)?.name} at {project.line.freq}:
            </Quiet>
            <RecipeGroups project={project} />
          </div>
        )}
      </div>
      <div>
        <SectionTitle>
          Boards
          <Link to="boards">look at them</Link>
        </SectionTitle>
        <p style={{ margin: '6px 0 18px' }}>
          <Quiet>{project.stacks.map((s) => s.name).join(', ')}</Quiet>
        </p>
        <SectionTitle>Lengths in</SectionTitle>
        <div style={{ margin: '6px 0 18px' }}>
          <Segments
            label="units of lengths in this project"
            value={project.display?.lengths ?? 'browser'}
            choices={[
              { id: 'browser', label: `as preferred (${preferred})` },
              { id: 'mm', label: 'mm' },
              { id: 'mil', label: 'mil' },
            ]}
            onChange={(id) =>
              edit('choose the unit of lengths', (p): Project => ({
                ...p,
                display: id === 'browser' ? {} : { lengths: id as 'mm' | 'mil' },
              }))
            }
          />
        </div>
        <Checkpoints project={project} />
        <DataList project={project} />
      </div>
    </Page>
  );
}
