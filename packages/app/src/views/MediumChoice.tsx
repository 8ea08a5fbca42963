import { media, type MediumId } from '@ditch/core/lines';
import { Segments } from '../controls/basics';

/** Microstrip or stripline. */
export function MediumChoice({
  medium,
  onChoose,
}: {
  medium: MediumId;
  onChoose: (medium: MediumId) => void;
}) {
  return (
    <Segments
      label="Medium"
      value={medium}
      choices={Object.values(media).map((k) => ({ id: k.id, label: k.name }))}
      onChange={(id) => onChoose(id as MediumId)}
    />
  );
}
