/** A chart room at night, and the same by day: every colour of the page, stated once. */
const NIGHT = {
  ground: '#10191d',
  sheet: '#162329',
  raised: '#1d2e35',
  rule: '#2b424b',
  ink: '#e9eee6',
  'ink-soft': '#a7b9b6',
  signal: '#58c9a4',
  'signal-deep': '#3f9f80',
  alert: '#ff7b61',
  caution: '#e3c567',
  picked: '#fff3d6',
  well: '#0c1316',
  send: '#6fb3cf',
  'on-signal': '#0b1a16',
  'on-alert': '#24100b',
  'on-caution': '#10191d',
  'on-picked': '#221b0e',
} as const;
export type Token = keyof typeof NIGHT;
type Palette = Readonly<Record<Token, string>>;

const DAY: Palette = {
  ground: '#e9e4d6',
  sheet: '#f5f1e6',
  raised: '#ffffff',
  rule: '#cfc8b5',
  ink: '#1c2a2e',
  'ink-soft': '#4a5d60',
  signal: '#0e6a4e',
  'signal-deep': '#14795a',
  alert: '#ae331b',
  caution: '#7d5f00',
  picked: '#2a2113',
  well: '#d9d2bf',
  send: '#2d6f8e',
  'on-signal': '#ffffff',
  'on-alert': '#ffffff',
  'on-caution': '#ffffff',
  'on-picked': '#fff8e6',
};
export const PALETTES: Readonly<Record<'night' | 'day', Palette>> = { night: NIGHT, day: DAY };

/** A palette with Vuetify's own names for the same colours beside ours. */
const theme = (dark: boolean, c: Palette) => ({
  dark,
  colors: {
    ...c,
    background: c.ground,
    'on-background': c.ink,
    'on-ground': c.ink,
    'on-sheet': c.ink,
    'on-raised': c.ink,
    'on-well': c.ink,
    surface: c.raised,
    'on-surface': c.ink,
    'surface-bright': c['ink-soft'],
    'surface-light': c.rule,
    'surface-variant': c.rule,
    'on-surface-variant': c.ink,
    primary: c.signal,
    'on-primary': c['on-signal'],
    secondary: c['ink-soft'],
    error: c.alert,
    'on-error': c['on-alert'],
    warning: c.caution,
    'on-warning': c['on-caution'],
    info: c.send,
    success: c.signal,
  },
  variables: {
    'border-color': c.rule,
    'border-opacity': 1,
    'high-emphasis-opacity': 1,
    'medium-emphasis-opacity': 1,
    'disabled-opacity': 0.5,
  },
});
export const THEMES = { night: theme(true, NIGHT), day: theme(false, DAY) };

/** The colours as plain names in CSS, `--ink`, for our own parts: they follow Vuetify's theme. */
export const tokenStyles = (): string =>
  `.v-theme--night, .v-theme--day { ${(Object.keys(NIGHT) as Token[])
    .map((token) => `--${token}: rgb(var(--v-theme-${token}));`)
    .join(' ')} }`;
