/** `/designs/0/pieces/2` as `designs[0] > pieces[2]`. */
function place(path: string): string {
  const steps = path.split('/').slice(1);
  if (steps.length === 0) return 'the file';
  return steps
    .reduce<string[]>((list, step) => {
      if (/^\d+$/.test(step) && list.length > 0) list[list.length - 1] += `[${step}]`;
      else list.push(step.replace(/~1/g, '/').replace(/~0/g, '~'));
      return list;
    }, [])
    .join(' > ');
}

/** What a validator refuses, in words that name the place. */
export function invalid(error: {
  instancePath: string;
  keyword: string;
  message?: string;
  params: Record<string, unknown>;
}): string {
  const at = place(error.instancePath);
  switch (error.keyword) {
    case 'required':
      return `${at}: "${String(error.params.missingProperty)}" is missing`;
    case 'additionalProperties':
      return `${at}: "${String(error.params.additionalProperty)}" is not known here`;
    case 'enum':
      return `${at}: must be one of ${(error.params.allowedValues as unknown[]).map(String).join(', ')}`;
    case 'const':
      return `${at}: must be ${JSON.stringify(error.params.allowedValue)}`;
    default:
      return `${at}: ${error.message ?? 'is not valid'}`;
  }
}
