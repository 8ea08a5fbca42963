import { download, fileName } from '../../controls/files';

/** The rules of the page that anything in an element may need, in one text; fonts are left to the reader. */
function rules(): string {
  const out: string[] = [];
  for (const sheet of document.styleSheets)
    for (const rule of sheet.cssRules) if (!(rule instanceof CSSFontFaceRule)) out.push(rule.cssText);
  return out.join('\n');
}

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');

/** Keeps a part of the page as a file that stands by itself. */
export function savePage(element: HTMLElement, title: string): void {
  const copy = element.cloneNode(true) as HTMLElement;
  copy.querySelectorAll('[data-screen-only]').forEach((node) => node.remove());
  download(
    `${fileName(title)}-report.html`,
    [
      '<!doctype html>',
      '<html lang="en" data-theme="light">',
      `<head><meta charset="utf-8"><title>${escaped(title)}</title><style>${rules()}</style></head>`,
      `<body style="overflow:auto">${copy.outerHTML}</body>`,
      '</html>',
      '',
    ].join('\n'),
    'text/html',
  );
}
