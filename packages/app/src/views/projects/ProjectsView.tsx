import { useEffect, useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import type { MediumId } from '@ditch/core/lines';
import { emptyProject, newId, resolveDesign, type Project } from '@ditch/core/network';
import { laminates, type Stack } from '@ditch/core/stack';
import { readQuantity } from '@ditch/core/units';
import { Button, PrimaryButton, Quiet, TextButton } from '../../controls/basics';
import { Dialog } from '../../controls/Dialog';
import { InputBox, QuantityInput } from '../../controls/QuantityInput';
import { LaminateChoice } from '../BoardChoice';
import { MediumChoice } from '../MediumChoice';
import { Picture } from '../design/Picture';
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
  const [beginning, setBeginning] = useState(false);
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
        <PrimaryButton onPress={() => setBeginning(true)}>New project…</PrimaryButton>
        <Button onPress={() => void importProject().then(open)}>Import a project file…</Button>
        <Button onPress={() => void demo()}>Add the demo project</Button>
      </Actions>
      {projects === undefined && <Quiet>Reading the list…</Quiet>}
      {projects?.length === 0 && <Demo onOpen={() => void demo()} />}
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
              <TextButton aria-label={`Export ${p.name}`} onPress={() => void exportProject(p.project)}>
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
      {beginning && (
        <NewProject
          latest={projects?.[0]?.project}
          onClose={() => setBeginning(false)}
          onMade={(project) => void addProject(project).then((id) => void navigate(`/p/${id}`))}
        />
      )}
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
          <Button onPress={() => doomed && void exportProject(doomed.project)}>Export first</Button>
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

const Offer = styled.button`
  display: grid;
  grid-template-columns: 380px minmax(0, 1fr);
  gap: 24px;
  width: 100%;
  padding: 0;
  border: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  text-align: left;
  cursor: pointer;
  &:hover {
    border-color: ${colour('water')};
  }
  div {
    height: 220px;
  }
  span {
    align-self: center;
    padding-right: 24px;
  }
  b {
    display: block;
    margin-bottom: 6px;
    font-size: 15px;
  }
`;

/** What a browser without projects is shown: the demo, with a picture of what is in it. */
function Demo({ onOpen }: { onOpen: () => void }) {
  const [project, setProject] = useState<Project>();
  useEffect(() => {
    let gone = false;
    demoProject().then(
      (p) => !gone && setProject(p),
      () => undefined,
    );
    return () => {
      gone = true;
    };
  }, []);
  const resolved = useMemo(() => {
    const design = project?.designs.find((d) => d.id === 'hybrid') ?? project?.designs[0];
    return project && design && resolveDesign(project, design);
  }, [project]);
  return (
    <Offer type="button" aria-label="Open the demo project" onClick={onOpen}>
      <div>{resolved && <Picture resolved={resolved} />}</div>
      <span>
        <b>There is no project here yet. Look at the demo?</b>
        The radar head of a made-up canal gauge at 10.55 GHz: matches, a divider, a quadrature hybrid and a
        bias feed on a PTFE board, tuned and retuned, with measured data beside them. It is yours to change;
        nothing leaves this browser.
      </span>
    </Offer>
  );
}

const Asked = styled.div`
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  align-items: center;
  gap: 6px 10px;
  margin-bottom: 16px;
`;

/** Asks for what everything after it depends on, board and frequency, so that no project takes them unseen. */
function NewProject({
  latest,
  onMade,
  onClose,
}: {
  /** The project that was worked on last, whose answers are offered. */
  latest: Project | undefined;
  onMade: (project: Project) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState('');
  const [stack, setStack] = useState<Stack>(
    latest?.stacks.find((s) => s.id === latest.line.stack) ?? laminates[0],
  );
  const [medium, setMedium] = useState<MediumId>(latest?.line.medium ?? 'microstrip');
  const [freq, setFreq] = useState(latest?.line.freq ?? '');
  const problem = problemOf(freq);
  const stacks = latest?.stacks ?? [];
  const make = () => {
    if (problem !== undefined) return;
    const empty = emptyProject(name.trim() || 'Untitled project', stack);
    onMade({ ...empty, line: { ...empty.line, medium, freq } });
  };
  return (
    <Dialog title="New project" open onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          make();
        }}
      >
        <Asked>
          <span>Name</span>
          <InputBox
            aria-label="name of the project"
            placeholder="Untitled project"
            value={name}
            maxLength={200}
            autoFocus
            onChange={(event) => setName(event.target.value)}
          />
          <span>Board</span>
          <LaminateChoice stack={stack} stacks={stacks} onChoose={setStack} />
          <span>Medium</span>
          <MediumChoice medium={medium} onChoose={setMedium} />
          <span>Design frequency</span>
          <QuantityInput
            label="design frequency"
            kind="frequency"
            placeholder="10.55 GHz"
            value={freq}
            error={freq === '' ? undefined : problem}
            onChange={setFreq}
          />
        </Asked>
        <p style={{ marginBottom: 14 }}>
          <Quiet>
            Every design begins on this board and at this frequency; each can have its own.
            {latest ? ` What is offered is that of \u201C${latest.name}\u201D.` : ''}
          </Quiet>
        </p>
        <Actions style={{ marginBottom: 0 }}>
          <PrimaryButton type="submit" isDisabled={problem !== undefined}>
            Create the project
          </PrimaryButton>
          <Button onPress={onClose}>Cancel</Button>
        </Actions>
      </form>
    </Dialog>
  );
}

/** Why a text is no design frequency. */
function problemOf(text: string): string | undefined {
  try {
    readQuantity(text, { kind: 'frequency', min: 0, exclusive: true });
    return undefined;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}
