/**
 * Why a file's content, read as UTF-8, is no text of that kind; undefined where nothing speaks against it. UTF-16, which
 * some editors write, shows as zeros between the letters or as a byte-order mark that UTF-8 does not know.
 */
export function encodingProblem(text: string): string | undefined {
  const head = text.slice(0, 400);
  if (/^\uFFFE|^\uFFFD\uFFFD/.test(head) || /[^\0]\0|\0[^\0]/.test(head))
    return 'the file is UTF-16 or binary; save it as plain text in UTF-8 (ASCII) and try again';
  return undefined;
}
