import { createGlobalStyle } from 'styled-components';

/** Colour tokens of the light sheet (limestone) and the dark one (basalt). The only place with colour literals. */
const limestone = {
  paper: '#F3EDE1',
  sheet: '#FBF8F1',
  rule: '#D9CFBC',
  'rule-soft': '#E8E0D0',
  ink: '#22201C',
  faded: '#625B50',
  verdigris: '#2C6E66',
  'verdigris-wash': '#DCE8E2',
  ochre: '#835809',
  'ochre-wash': '#F2E5C6',
  madder: '#A1303F',
  'madder-wash': '#F3DADA',
  lapis: '#2F4F8F',
  'lapis-wash': '#DEE5F3',
  plum: '#6B3F6E',
  link: '#B3A78F',
  'on-main': '#FBF8F1',
  shade: 'rgba(34, 32, 28, 0.28)',
};
const basalt: typeof limestone = {
  paper: '#1B1D1C',
  sheet: '#232625',
  rule: '#3A3F3C',
  'rule-soft': '#2E3230',
  ink: '#ECE6DA',
  faded: '#A9A293',
  verdigris: '#7FC4B6',
  'verdigris-wash': '#24403B',
  ochre: '#E0B25A',
  'ochre-wash': '#41351C',
  madder: '#EE8A93',
  'madder-wash': '#452329',
  lapis: '#9DB7EE',
  'lapis-wash': '#27324B',
  plum: '#C79ACB',
  link: '#666D67',
  'on-main': '#12201D',
  shade: 'rgba(0, 0, 0, 0.5)',
};
export type Token = keyof typeof limestone;

/** A token as CSS value. */
export const token = (name: Token): string => `var(--${name})`;
const vars = (tokens: typeof limestone): string =>
  Object.entries(tokens)
    .map(([k, v]) => `--${k}: ${v};`)
    .join('');

export const serif = "'Fraunces Variable', Georgia, serif";
export const sans = "'Hanken Grotesk Variable', system-ui, sans-serif";
export const mono = "'JetBrains Mono Variable', ui-monospace, monospace";

export const GlobalStyle = createGlobalStyle`
  :root { ${vars(limestone)} color-scheme: light; }
  @media (prefers-color-scheme: dark) { :root { ${vars(basalt)} color-scheme: dark; } }
  :root[data-sheet='limestone'] { ${vars(limestone)} color-scheme: light; }
  :root[data-sheet='basalt'] { ${vars(basalt)} color-scheme: dark; }
  *, *::before, *::after { box-sizing: border-box; }
  body { margin: 0; background: ${token('paper')}; color: ${token('ink')}; font: 14px/1.42 ${sans}; font-feature-settings: 'tnum'; -webkit-font-smoothing: antialiased; }
  #root { height: 100vh; }
  h1, h2, h3, h4, p, dl, dd, ul, ol { margin: 0; padding: 0; }
  ul, ol { list-style: none; }
  a { color: ${token('lapis')}; }
  button, input, select, textarea { font: inherit; color: inherit; }
  code, .mono { font-family: ${mono}; font-size: 12.5px; font-feature-settings: 'calt' 0; }
  :focus { outline: none; }
  :focus-visible { outline: 2px solid ${token('verdigris')}; outline-offset: 1px; }
  ::selection { background: ${token('verdigris-wash')}; }
  @media (prefers-reduced-motion: reduce) { *, *::before, *::after { animation: none !important; transition: none !important; } }
`;
