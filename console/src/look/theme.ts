import { createTheme } from '@mantine/core';

/** Hands the look's voices and colours to the library's parts. */
export const theme = createTheme({
  fontFamily: 'var(--ui)',
  fontFamilyMonospace: 'var(--mono)',
  headings: { fontFamily: 'var(--read)' },
  defaultRadius: 8,
  primaryColor: 'lantern',
  primaryShade: { light: 8, dark: 4 },
  colors: {
    lantern: ['#fdf0d2', '#fbe3ae', '#f7d07c', '#f1bb4a', '#e8a317', '#d0900f', '#b27a0a', '#976600', '#8a5a00', '#6d4700'],
  },
});
