import { createGlobalStyle } from 'styled-components';

/** Colours by meaning. Charts and copper read the same names, so that an exported picture keeps them. */
export const palettes = {
  light: {
    page: '#f6f3ec',
    raised: '#fbf9f4',
    laminate: '#efe9da',
    rule: '#ddd6c8',
    ruleStrong: '#a59f92',
    ink: '#2b353c',
    quiet: '#5d6870',
    copper: '#c17a50',
    copperHand: '#a3552f',
    water: '#0f7c85',
    waterText: '#0b6870',
    waterSoft: '#e2eeec',
    onWater: '#ffffff',
    caution: '#c9962b',
    error: '#a8321f',
    chosen: '#ece6d8',
    trace1: '#2b353c',
    trace2: '#b4643c',
    trace3: '#0f7c85',
    trace4: '#75639f',
    trace5: '#8a6d12',
    trace6: '#8d4566',
  },
  dark: {
    page: '#171c1f',
    raised: '#1d2428',
    laminate: '#2a2c28',
    rule: '#394147',
    ruleStrong: '#66707a',
    ink: '#e9e4d8',
    quiet: '#a3adb4',
    copper: '#c6845a',
    copperHand: '#e2a079',
    water: '#10737b',
    waterText: '#5fc3cb',
    waterSoft: '#1c3437',
    onWater: '#ffffff',
    caution: '#e0b04a',
    error: '#f09580',
    chosen: '#2c3439',
    trace1: '#e9e4d8',
    trace2: '#e2a079',
    trace3: '#5fc3cb',
    trace4: '#b3a2dc',
    trace5: '#d7b95a',
    trace6: '#d98fb1',
  },
} as const;

export type ColourName = keyof (typeof palettes)['light'];

/** A colour of the current theme, for styles and SVG alike. */
export const colour = (name: ColourName): string => `var(--${name})`;

const variables = (palette: Record<ColourName, string>): string =>
  Object.entries(palette)
    .map(([name, value]) => `--${name}: ${value};`)
    .join('\n');

export const GlobalStyle = createGlobalStyle`
  :root { ${variables(palettes.light)} color-scheme: light; }
  :root[data-theme='dark'] { ${variables(palettes.dark)} color-scheme: dark; }
  @media (prefers-color-scheme: dark) {
    :root:not([data-theme='light']) { ${variables(palettes.dark)} color-scheme: dark; }
  }
  *, *::before, *::after { box-sizing: border-box; }
  html, body, #root { height: 100%; margin: 0; }
  body {
    background: var(--page);
    color: var(--ink);
    font: 13px/1.45 'Inter Variable', system-ui, sans-serif;
    font-feature-settings: 'tnum', 'cv05';
    -webkit-font-smoothing: antialiased;
  }
  h1, h2, h3, p, ul, ol, dl, dd, figure { margin: 0; padding: 0; }
  ul, ol { list-style: none; }
  button, input, select, textarea { font: inherit; color: inherit; letter-spacing: inherit; }
  a { color: var(--waterText); }
  /* A hand that drags across a picture does not select its words. */
  svg { user-select: none; }
  /* What lies in a drawing is ringed by the browser even when a pointer took it. */
  svg:focus:not(:focus-visible), svg :focus:not(:focus-visible) { outline: none; }
  :focus-visible { outline: 2px solid var(--water); outline-offset: 1px; }
  /* On paper there is the page alone, in light colours. */
  @media print {
    :root, :root[data-theme='dark'] { ${variables(palettes.light)} color-scheme: light; }
    html, body, #root { height: auto; }
    body { background: #fff; print-color-adjust: exact; -webkit-print-color-adjust: exact; }
    [data-screen-only] { display: none !important; }
  }
  @media (prefers-reduced-motion: reduce) {
    *, *::before, *::after { animation-duration: 0s !important; transition-duration: 0s !important; }
  }
`;
