import { useNavigate, useParams, Link } from 'react-router';
import { Segments } from '../../controls/basics';
import { Empty } from '../Empty';
import { useProject } from '../hooks';
import { FamilyStudy } from './FamilyStudy';
import { SpreadStudy } from './SpreadStudy';
import { STUDIES, type StudyName } from './layout';

/** Studies of one design: what becomes of it when a value changes, and when it is made. */
export default function StudiesView() {
  const { designId = '', study } = useParams();
  const project = useProject();
  const navigate = useNavigate();
  const design = project.designs.find((d) => d.id === designId);
  if (!design)
    return (
      <Empty title="This design is not in the project">
        It was removed, or the address is of another project.{' '}
        <Link to={`/p/${project.id}`}>See the project’s designs</Link>.
      </Empty>
    );
  const name: StudyName = study === 'spread' ? 'spread' : 'family';
  const choice = (
    <Segments
      label="study"
      value={name}
      choices={STUDIES}
      onChange={(id) => void navigate(`/p/${project.id}/design/${designId}/studies/${id}`)}
    />
  );
  const Study = name === 'spread' ? SpreadStudy : FamilyStudy;
  return <Study key={`${designId} ${name}`} project={project} design={design} choice={choice} />;
}
