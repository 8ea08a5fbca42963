import { laminates, type Stack } from '@ditch/core/stack';
import { Select } from '../controls/Select';

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
  const all = [...stacks, ...laminates.filter((l) => !stacks.some((s) => s.id === l.id))];
  // A laminate that was changed here keeps its name; the one that ships stands beside it.
  const named = (s: Stack) =>
    laminates.includes(s) && stacks.some((own) => own.name === s.name) ? `${s.name}, as it ships` : s.name;
  return (
    <Select
      label="Laminate"
      value={stack.id}
      choices={all.map((s) => ({ id: s.id, label: named(s), note: `${s.er} \u00B7 ${s.height}` }))}
      onChange={(id) => {
        const chosen = all.find((s) => s.id === id);
        if (chosen && chosen.id !== stack.id) onChoose(chosen);
      }}
    />
  );
}
