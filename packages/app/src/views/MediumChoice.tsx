import { lineKinds, type Medium } from '@ditch/core/lines';
import { Segments } from '../controls/basics';

/** Microstrip or stripline. */
export function MediumChoice({ medium, onChoose }: { medium: Medium; onChoose: (medium: Medium) => void }) {
  return (
    <Segments
      label="Medium"
      value={medium}
      choices={Object.values(lineKinds).map((k) => ({ id: k.id, label: k.name }))}
      onChange={(id) => onChoose(id as Medium)}
    />
  );
}
