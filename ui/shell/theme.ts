import { createTheme, type MantineColorsTuple } from '@mantine/core'

const heron: MantineColorsTuple = [
  '#eef4f4',
  '#dbe6e6',
  '#b4cccd',
  '#8cc0c2',
  '#689a9d',
  '#52898d',
  '#3f777b',
  '#2c5f63',
  '#234f53',
  '#173f43',
]

const vermilion: MantineColorsTuple = [
  '#fdeeec',
  '#f9dbd8',
  '#f0b5af',
  '#e88c84',
  '#e0695e',
  '#d64f43',
  '#c73a2f',
  '#b3261e',
  '#971e17',
  '#7a1610',
]

/** Mantine in the product's own ink: one accent, plain controls, no shadows. */
export const theme = createTheme({
  primaryColor: 'heron',
  primaryShade: { light: 7, dark: 3 },
  colors: { heron, red: vermilion },
  fontFamily: '"IBM Plex Sans", system-ui, sans-serif',
  fontFamilyMonospace: '"IBM Plex Mono", monospace',
  headings: { fontFamily: '"Source Serif 4", Georgia, serif', fontWeight: '600' },
  fontSizes: { xs: '11.5px', sm: '13px', md: '14px', lg: '16px', xl: '19px' },
  defaultRadius: 3,
  cursorType: 'pointer',
  components: {
    Button: { defaultProps: { size: 'compact-sm' } },
    TextInput: { defaultProps: { size: 'sm' } },
    Select: { defaultProps: { size: 'sm' } },
    Modal: {
      defaultProps: {
        ...{ radius: 4, centered: false, yOffset: '8vh', transitionProps: { duration: 0 } },
        closeButtonProps: { 'aria-label': 'Close' },
      },
    },
    Popover: { defaultProps: { transitionProps: { duration: 0 }, shadow: 'sm' } },
    Menu: { defaultProps: { transitionProps: { duration: 0 }, shadow: 'sm' } },
  },
})
