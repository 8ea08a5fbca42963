import type { Medium } from '@ditch/core/lines';
import { lineKinds } from '@ditch/core/lines';
import { laminates, type Stack } from '@ditch/core/stack';
import { Segments, Select } from '../controls/basics';

/** The project's boards and the laminates that ship, to choose from. */
export function LaminateChoice({
  stack,
  stacks,
  onChoose,
}: {
  stack: Stack;
  stacks: readonly Stack[];
  onChoose: (stack: Stack) => void;
}) {
  const all = [
    ...stacks,
    ...laminates.filter((l) => !stacks.some((s) => s.id === l.id || s.name === l.name)),
  ];
  return (
    <Select
      label="Laminate"
      value={stack.id}
      choices={all.map((s) => ({ id: s.id, label: s.name, note: `${s.er} \u00B7 ${s.height}` }))}
      onChange={(id) => {
        const chosen = all.find((s) => s.id === id);
        if (chosen && chosen.id !== stack.id) onChoose(chosen);
      }}
    />
  );
}

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
