'use client';
import { createTheme } from '@mui/material/styles';
import { tokens as t } from './tokens';

/** Milliseconds that a menu takes to open. */
const QUICK = 60;
const cut = 'polygon(0 0, calc(100% - 8px) 0, 100% 8px, 100% 100%, 0 100%)';

/** One theme for everything: flat, dense, hairlines, one cut corner on the one primary action. */
export const theme = createTheme({
  cssVariables: true,
  palette: {
    mode: 'dark',
    primary: { main: t.bone, contrastText: t.ink },
    secondary: { main: t.clay, contrastText: t.ink },
    info: { main: t.glaze },
    warning: { main: t.ochre },
    error: { main: t.red },
    background: { default: t.pit, paper: t.wall },
    text: { primary: t.bone, secondary: t.dust, disabled: t.ash },
    divider: t.line,
  },
  shape: { borderRadius: 0 },
  // What is opened a hundred times an hour is there at once.
  transitions: { duration: { shortest: 60, shorter: 60, short: 80, standard: 80, complex: 100, enteringScreen: 80, leavingScreen: 60 } },
  typography: {
    fontFamily: '"IBM Plex Sans", sans-serif',
    fontSize: 12,
    body1: { fontSize: 13 },
    body2: { fontSize: 12 },
    caption: { fontSize: 11, color: t.dust },
    h6: { fontSize: 15, fontWeight: 600 },
    button: { textTransform: 'none', fontWeight: 500, fontSize: 12 },
  },
  components: {
    MuiMenu: { defaultProps: { transitionDuration: QUICK } },
    MuiPopover: { defaultProps: { transitionDuration: QUICK } },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { disableElevation: true, size: 'small' },
      styleOverrides: {
        root: {
          minHeight: 26,
          padding: '2px 12px',
          minWidth: 0,
          lineHeight: 1.3,
          fontSize: 12,
          variants: [
            { props: { variant: 'contained', color: 'secondary' }, style: { clipPath: cut, '&:hover': { background: t.clayText } } },
          ],
        },
        outlined: { borderColor: t.line, color: t.bone, '&:hover': { borderColor: t.ash, background: t.shelf } },
        text: { color: t.dust, '&:hover': { color: t.bone, background: t.shelf } },
      },
    },
    MuiIconButton: {
      defaultProps: { size: 'small' },
      styleOverrides: { root: { borderRadius: 0, padding: 4, color: t.dust, '&:hover': { color: t.bone, background: t.shelf } } },
    },
    MuiPaper: { styleOverrides: { root: { backgroundImage: 'none', boxShadow: 'none', border: `1px solid ${t.line}` } } },
    MuiDialogTitle: { styleOverrides: { root: { fontSize: 15, fontWeight: 600, padding: '14px 18px 8px' } } },
    MuiDialogContent: { styleOverrides: { root: { padding: '8px 18px' } } },
    MuiDialogActions: { styleOverrides: { root: { padding: '10px 18px 14px' } } },
    MuiMenuItem: {
      styleOverrides: {
        root: {
          fontSize: 12,
          minHeight: 28,
          padding: '3px 12px',
          '&.Mui-selected': { background: t.bone, color: t.ink, '&:hover, &.Mui-focusVisible': { background: t.bone } },
        },
      },
    },
    MuiListSubheader: {
      styleOverrides: { root: { lineHeight: '26px', fontSize: 11, letterSpacing: '.06em', color: t.ash, background: t.wall } },
    },
    MuiTooltip: {
      defaultProps: { enterDelay: 500, disableInteractive: true },
      styleOverrides: {
        tooltip: { background: t.shelf, color: t.bone, border: `1px solid ${t.line}`, fontSize: 11.5, borderRadius: 0, padding: '4px 8px' },
      },
    },
    MuiSlider: {
      styleOverrides: {
        root: { height: 2, padding: '9px 0', color: t.dust, borderRadius: 0 },
        thumb: {
          width: 3,
          height: 11,
          borderRadius: 0,
          background: t.bone,
          boxShadow: 'none',
          transition: 'none',
          '&:hover, &.Mui-focusVisible, &.Mui-active': { boxShadow: `0 0 0 3px ${t.line}` },
          '&::after': { width: 16, height: 22 },
        },
        rail: { background: '#454545', opacity: 1 },
        track: { border: 'none', transition: 'none' },
      },
    },
    MuiOutlinedInput: {
      styleOverrides: {
        root: {
          background: t.pit,
          fontSize: 12,
          '& .MuiOutlinedInput-notchedOutline': { borderColor: t.line },
          '&.Mui-focused .MuiOutlinedInput-notchedOutline': { borderColor: t.bone, borderWidth: 1 },
        },
        input: { padding: '4px 8px', height: 18 },
      },
    },
    MuiSelect: { styleOverrides: { select: { paddingTop: 3, paddingBottom: 3, minHeight: 0 }, icon: { color: t.dust, fontSize: 16 } } },
    MuiSwitch: {
      styleOverrides: {
        root: { width: 30, height: 18, padding: 4 },
        switchBase: {
          padding: 4,
          '&.Mui-checked': { transform: 'translateX(12px)', color: t.bone, '& + .MuiSwitch-track': { background: t.dust, opacity: 1 } },
        },
        thumb: { width: 10, height: 10, borderRadius: 0, boxShadow: 'none' },
        track: { borderRadius: 0, background: '#454545', opacity: 1 },
      },
    },
    MuiTabs: { styleOverrides: { root: { minHeight: 32 }, indicator: { background: t.bone, height: 2 } } },
    MuiTab: {
      styleOverrides: {
        root: {
          minHeight: 32,
          minWidth: 0,
          padding: '6px 12px',
          fontSize: 12,
          fontWeight: 400,
          color: t.dust,
          '&.Mui-selected': { color: t.bone },
        },
      },
    },
    MuiLinearProgress: { styleOverrides: { root: { height: 3, background: t.line }, bar: { background: t.clay } } },
    MuiFormControlLabel: { styleOverrides: { label: { fontSize: 12 } } },
    MuiFormHelperText: { styleOverrides: { root: { margin: '2px 0 0', fontSize: 11 } } },
  },
});
