// Theme tokens: every colour, space and letter of the interface. Two themes, paper and night, as CSS variables, so that a change
// of theme paints without a new page. Pairs of text and ground reach WCAG 2.2 AA (checked by axe in the end-to-end tests).

const paper = {
  paper: '#F6F2EA',
  sheet: '#FFFDF8',
  raised: '#FBF6EC',
  ink: '#1D2A2F',
  soft: '#56646A',
  line: '#DDD5C6',
  lineStrong: '#8C8676',
  green: '#145C4E',
  greenText: '#145C4E',
  onGreen: '#FFFDF8',
  greenTint: '#E3EEE7',
  saddle: '#9A4F22',
  onSaddle: '#FFFDF8',
  amber: '#8A5A00',
  amberTint: '#FBF0D9',
  brick: '#A12B2B',
  brickTint: '#F8E5E1',
  slate: '#2F5D84',
  slateTint: '#E4ECF3',
  strap: '#123F38',
  strapText: '#DCE7E1',
  strapSoft: '#A9C4BA',
  strapLine: '#5E8A7E',
  strapActive: '#F3EBDA',
  strapActiveText: '#123F38',
  strapCount: '#2F5F55',
  stripe: '#C98A1B',
  stripeInk: '#1D2A2F',
  shadow: 'rgb(29 42 47 / 18%)',
  veil: 'rgb(29 42 47 / 45%)',
};

const night: typeof paper = {
  paper: '#161A1B',
  sheet: '#1E2223',
  raised: '#262A2B',
  ink: '#ECE6DA',
  soft: '#A9AFAE',
  line: '#363B3C',
  lineStrong: '#7C8280',
  green: '#1E5A4C',
  greenText: '#7CC9B3',
  onGreen: '#F3F6F2',
  greenTint: '#1B332D',
  saddle: '#A8582A',
  onSaddle: '#FFFDF8',
  amber: '#E0AA4E',
  amberTint: '#332812',
  brick: '#EE8B80',
  brickTint: '#3A1F1D',
  slate: '#8DB8E0',
  slateTint: '#1B2B3A',
  strap: '#0E1315',
  strapText: '#C9D3CE',
  strapSoft: '#93A39C',
  strapLine: '#4A5A54',
  strapActive: '#D8CFBD',
  strapActiveText: '#123F38',
  strapCount: '#333B3B',
  stripe: '#C98A1B',
  stripeInk: '#1D2A2F',
  shadow: 'rgb(0 0 0 / 50%)',
  veil: 'rgb(0 0 0 / 60%)',
};

const kebab = (name: string) => `--${name.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`)}`;
const variables = (set: typeof paper) =>
  Object.entries(set)
    .map(([k, v]) => `${kebab(k)}: ${v};`)
    .join(' ');

/** Colours as CSS variables. */
export const color = Object.fromEntries(Object.keys(paper).map((k) => [k, `var(${kebab(k)})`])) as Record<
  keyof typeof paper,
  string
>;

/** The variables' values, for the global style. */
export const themeCss = `
  :root { color-scheme: light; ${variables(paper)} }
  :root[data-theme='night'] { color-scheme: dark; ${variables(night)} }
  @media (prefers-color-scheme: dark) { :root[data-theme='system'] { color-scheme: dark; ${variables(night)} } }
`;

export const font = {
  text: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif",
  mono: "'Atkinson Hyperlegible Mono Variable', ui-monospace, monospace",
  title: "'Fraunces Variable', Georgia, serif",
};

/** Space in steps of 4 px. */
export const space = (n: number) => `${n * 4}px`;
export const radius = { small: '6px', medium: '10px', tag: '26px' };
