import { createTheme, type MantineColorsTuple } from '@mantine/core';

const verdigris: MantineColorsTuple = [
  '#e7f3f0',
  '#cfe5e0',
  '#a3ccc3',
  '#74b2a5',
  '#4c9a8a',
  '#2f8878',
  '#1f7a6d',
  '#18675c',
  '#12544b',
  '#0b4139',
];

/** Mantine in our paper, inks and type; colours for everything else stand once in styles/base.css. */
export const theme = createTheme({
  primaryColor: 'verdigris',
  primaryShade: 6,
  colors: { verdigris },
  fontFamily: '"Atkinson Hyperlegible Next Variable", sans-serif',
  headings: { fontFamily: '"Fraunces Variable", serif', fontWeight: '600' },
  fontSizes: { xs: '12px', sm: '13px', md: '13px', lg: '15px', xl: '18px' },
  defaultRadius: 'sm',
  cursorType: 'pointer',
});
