import { useState } from 'react';
import { endMerge } from '../store/session';
import { InputBox } from './QuantityInput';

interface NameInputProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (name: string) => void;
  readonly className?: string;
}

/** A field for a name, which may be emptied while typing but not be left empty. */
export function NameInput({ label, value, onChange, className }: NameInputProps) {
  const [empty, setEmpty] = useState(false);
  return (
    <InputBox
      className={className}
      aria-label={label}
      aria-invalid={empty}
      value={empty ? '' : value}
      maxLength={200}
      spellCheck={false}
      onChange={(event) => {
        const name = event.target.value.trimStart();
        setEmpty(name === '');
        if (name !== '') onChange(name);
      }}
      onBlur={() => {
        setEmpty(false);
        endMerge();
      }}
    />
  );
}
