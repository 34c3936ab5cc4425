/** Colours and type: slate and lime plaster, hues by way. */
import { createTheme } from '@mui/material/styles';
import type { Driver, Kind } from '../api/types';
import type { Mode } from '../state/window';

interface Palette {
  ground: string;
  panel: string;
  raised: string;
  plot: string;
  line: string;
  grid: string;
  text: string;
  quiet: string;
  clay: string;
  clayText: string;
  onClay: string;
  good: string;
  sum: string;
  ways: Record<Kind, string>;
  centre: string;
  rear: string;
}

export const palettes: Record<Mode, Palette> = {
  dark: {
    ground: '#171c22',
    panel: '#1e252d',
    raised: '#28313b',
    plot: '#12161b',
    line: '#2c3641',
    grid: '#232b34',
    text: '#e8e4dc',
    quiet: '#a3aeb9',
    clay: '#df7b52',
    clayText: '#e88a63',
    onClay: '#17110d',
    good: '#7bc47f',
    sum: '#f3efe6',
    ways: {
      sub: '#8a8cff',
      midbass: '#2fb8a6',
      mid: '#e2b447',
      tweeter: '#ec7ba4',
      woofer: '#5fa8d3',
      full: '#9fb98a',
    },
    centre: '#6fb3d9',
    rear: '#c49be0',
  },
  light: {
    ground: '#ece7dc',
    panel: '#f5f1e8',
    raised: '#e3dccd',
    plot: '#fbf8f1',
    line: '#c9c0ae',
    grid: '#e6dfd1',
    text: '#232a31',
    quiet: '#56616c',
    clay: '#b4512a',
    clayText: '#9c431f',
    onClay: '#ffffff',
    good: '#2e6b33',
    sum: '#1c2228',
    ways: {
      sub: '#5456cf',
      midbass: '#0c7466',
      mid: '#866000',
      tweeter: '#b02f66',
      woofer: '#1f6690',
      full: '#4d6a3c',
    },
    centre: '#1f6a94',
    rear: '#7a4a9c',
  },
};

/** The colour of a driver: that of its way; in the centre and the rear half of it is the group's own. */
export function hueOf(own: Palette, driver: Pick<Driver, 'kind' | 'group'>): string {
  if (driver.group !== 'centre' && driver.group !== 'rear') return own.ways[driver.kind];
  return driver.kind === 'full' ? own[driver.group] : mixed(own.ways[driver.kind], own[driver.group]);
}

/** Half of one colour and half of another, both as #rrggbb. */
export const mixed = (one: string, other: string) =>
  `#${[1, 3, 5]
    .map((at) => Math.round((parseInt(one.slice(at, at + 2), 16) + parseInt(other.slice(at, at + 2), 16)) / 2))
    .map((part) => part.toString(16).padStart(2, '0'))
    .join('')}`;

export const FONT = '"IBM Plex Sans", sans-serif';

declare module '@mui/material/styles' {
  interface Theme {
    own: Palette;
  }
  interface ThemeOptions {
    own?: Palette;
  }
}

export function makeTheme(mode: Mode) {
  const own = palettes[mode];
  return createTheme({
    own,
    palette: {
      mode,
      background: { default: own.ground, paper: own.panel },
      primary: { main: own.clay, contrastText: own.onClay },
      success: { main: own.good },
      text: { primary: own.text, secondary: own.quiet },
      divider: own.line,
    },
    shape: { borderRadius: 5 },
    transitions: { create: () => 'none' },
    typography: { fontFamily: FONT, fontSize: 13, button: { textTransform: 'none', fontWeight: 600 } },
    components: {
      MuiCssBaseline: {
        styleOverrides: {
          body: { overflow: 'hidden', fontVariantNumeric: 'tabular-nums' },
          '#root': { height: '100vh' },
          ':focus-visible': { outline: `2px solid ${own.clay}`, outlineOffset: 1 },
        },
      },
      MuiButtonBase: { defaultProps: { disableRipple: true }, styleOverrides: { root: { fontFamily: 'inherit' } } },
      MuiButton: {
        defaultProps: { disableElevation: true, size: 'small' },
        styleOverrides: {
          text: { '&:not(.Mui-disabled)': { color: own.clayText } },
          outlined: { '&:not(.Mui-disabled)': { color: own.clayText } },
        },
      },
      MuiToggleButton: {
        styleOverrides: {
          root: {
            color: own.quiet,
            borderColor: own.line,
            '&.Mui-selected, &.Mui-selected:hover': { color: own.text, backgroundColor: own.line },
          },
        },
      },
      MuiLink: { styleOverrides: { root: { color: own.clayText } } },
      MuiTooltip: { defaultProps: { enterDelay: 500 } },
    },
  });
}
