import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { emptyProject, newId } from '@ditch/core/network';
import { Button, Dialog, PrimaryButton, Quiet, TextButton } from '../../controls/basics';
import type { StoredProject } from '../../store/db';
import { addDemo, demoProject } from '../../store/demo';
import { exportProject, importProject, removeProject, useProjects } from '../../store/library';
import { addProject } from '../../store/session';
import { colour } from '../../theme';

const Page = styled.div`
  max-width: 880px;
  margin: 0 auto;
  padding: 28px 24px;
  h1 {
    font-size: 18px;
    margin-bottom: 14px;
  }
`;
const Actions = styled.div`
  display: flex;
  gap: 8px;
  margin-bottom: 18px;
`;
const Row = styled.li`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 150px auto;
  align-items: center;
  gap: 16px;
  min-height: 44px;
  border-top: 1px solid ${colour('rule')};
  a {
    color: ${colour('ink')};
    font-weight: 600;
  }
  div:last-child {
    display: flex;
    gap: 14px;
  }
`;

export default function ProjectsView() {
  const projects = useProjects();
  const navigate = useNavigate();
  const [doomed, setDoomed] = useState<StoredProject>();
  const open = (id: string | undefined) => id && void navigate(`/p/${id}`);
  const demo = async () => {
    const project = await demoProject();
    const here = projects?.some((p) => p.id === project.id);
    open(await addDemo(here ? { ...project, id: newId(), name: `${project.name} (fresh copy)` } : project));
  };
  return (
    <Page>
      <h1>Projects in this browser</h1>
      <Actions>
        <PrimaryButton onPress={() => void addProject(emptyProject('Untitled project')).then(open)}>
          New project
        </PrimaryButton>
        <Button onPress={() => void importProject().then(open)}>Import a project file…</Button>
        <Button onPress={() => void demo()}>Add the demo project</Button>
      </Actions>
      {projects === undefined && <Quiet>Reading the list…</Quiet>}
      {projects?.length === 0 && (
        <Quiet>There is no project yet. Start a new one, import a file, or look at the demo.</Quiet>
      )}
      <ul>
        {projects?.map((p) => (
          <Row key={p.id}>
            <span>
              <Link to={`/p/${p.id}`}>{p.name}</Link>{' '}
              <Quiet>
                {p.project.designs.length} {p.project.designs.length === 1 ? 'design' : 'designs'}
              </Quiet>
            </span>
            <Quiet>{new Date(p.modified).toLocaleString()}</Quiet>
            <div>
              <TextButton aria-label={`Export ${p.name}`} onPress={() => exportProject(p.project)}>
                export
              </TextButton>
              <TextButton
                aria-label={`Copy ${p.name}`}
                onPress={() => void addProject({ ...p.project, id: newId(), name: `${p.name} (copy)` })}
              >
                copy
              </TextButton>
              <TextButton aria-label={`Delete ${p.name}`} onPress={() => setDoomed(p)}>
                delete
              </TextButton>
            </div>
          </Row>
        ))}
      </ul>
      <Dialog
        title={`Delete \u201C${doomed?.name ?? ''}\u201D?`}
        open={doomed !== undefined}
        onClose={() => setDoomed(undefined)}
      >
        <p>
          The project and its checkpoints leave this browser for good. Export it first if you may want it
          back.
        </p>
        <Actions style={{ margin: '16px 0 0' }}>
          <Button onPress={() => doomed && exportProject(doomed.project)}>Export first</Button>
          <PrimaryButton
            onPress={() => {
              void removeProject(doomed!.id);
              setDoomed(undefined);
            }}
          >
            Delete
          </PrimaryButton>
          <Button onPress={() => setDoomed(undefined)}>Keep it</Button>
        </Actions>
      </Dialog>
    </Page>
  );
}
