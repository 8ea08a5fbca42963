import { InputBox } from './QuantityInput';

/** Where words are typed that something is looked for by. */
export function SearchBox({
  label,
  placeholder = label,
  value,
  onChange,
}: {
  label: string;
  placeholder?: string;
  value: string;
  onChange: (text: string) => void;
}) {
  return (
    <InputBox
      type="search"
      aria-label={label}
      placeholder={placeholder}
      value={value}
      maxLength={80}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

/** Whether a text, in small letters, has all words of a search. */
export function finder(search: string): (text: string) => boolean {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  return (text) => words.every((word) => text.includes(word));
}
