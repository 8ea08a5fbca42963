import { memo } from 'react';
import { TextButton } from './basics';
import { helpHandlers } from './help';

interface FreeMarkProps {
  /** What the value is called. */
  readonly label: string;
  readonly on: boolean;
  readonly onChange: (on: boolean) => void;
}

/** Whether hand and search may move a value: it is on the tuning strip or not. */
export const FreeMark = memo(function FreeMark({ label, on, onChange }: FreeMarkProps) {
  return (
    <TextButton
      aria-label={`${label}: on the tuning strip`}
      aria-pressed={on}
      {...helpHandlers(
        'On the tuning strip',
        'A filled mark: the value is turned on the strip below, and a search for the limits may move it.',
      )}
      style={{ width: 18, padding: 0, textAlign: 'center', textDecoration: 'none' }}
      onPress={() => onChange(!on)}
    >
      {on ? '\u25C6' : '\u25C7'}
    </TextButton>
  );
});
