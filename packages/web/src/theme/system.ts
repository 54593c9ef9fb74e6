import { createSystem, defaultConfig, defineConfig, defineRecipe, defineSlotRecipe } from '@chakra-ui/react';
import { menuAnatomy } from '@chakra-ui/react/anatomy';
import { DAY, NIGHT, type Palette } from '@pontrel/contract/palette';

const colors = Object.fromEntries(
  (Object.keys(DAY) as (keyof Palette)[]).map((name) => [name, { value: { base: DAY[name], _dark: NIGHT[name] } }]),
);

const button = defineRecipe({
  base: {
    fontWeight: 550,
    borderRadius: 'sheet',
    borderWidth: '1px',
    borderColor: 'transparent',
    gap: '6px',
    whiteSpace: 'nowrap',
    transition: 'background 80ms',
    focusVisibleRing: 'outside',
    _disabled: { opacity: 0.5 },
  },
  variants: {
    variant: {
      solid: {
        bg: 'oxide',
        color: 'onAccent',
        fontWeight: 600,
        _hover: { bg: { base: 'oxideDeep', _dark: 'oxide' } },
        _disabled: { bg: 'sunk', color: 'muted', borderColor: 'hairline', opacity: 1 },
      },
      outline: { bg: 'surface', color: 'ink', borderColor: 'line', _hover: { bg: 'sunk' }, _expanded: { bg: 'surface' } },
      ghost: { bg: 'transparent', color: 'ink', _hover: { bg: 'sunk' }, _expanded: { bg: 'transparent' } },
    },
    size: {
      sm: { h: '26px', minW: '26px', px: '9px', textStyle: 'small' },
      md: { h: '32px', minW: '32px', px: '12px', fontSize: '13px' },
    },
  },
  defaultVariants: { variant: 'outline', size: 'md' },
});

const input = defineRecipe({
  base: {
    bg: 'surface',
    color: 'ink',
    borderRadius: 'sheet',
    borderColor: 'line',
    _placeholder: { color: 'muted' },
    _invalid: { borderColor: 'madder' },
  },
  variants: {
    variant: { outline: { borderColor: 'line', bg: 'surface' } },
    size: { sm: { h: '26px', px: '7px', fontSize: '12.5px' }, md: { h: '30px', px: '8px', fontSize: '13px' } },
  },
  defaultVariants: { variant: 'outline', size: 'md' },
});

const menu = defineSlotRecipe({
  slots: menuAnatomy.keys(),
  base: {
    content: { bg: 'surface', color: 'ink', borderWidth: '1px', borderColor: 'line', borderRadius: 'sheet', boxShadow: 'sm', py: '4px' },
    item: {
      gap: '9px',
      px: '10px',
      minH: '30px',
      fontSize: '13px',
      borderRadius: 'sheet',
      cursor: 'pointer',
      _highlighted: { bg: 'sunk' },
    },
  },
});

/** The one definition of the look: tokens, text styles and the recipes of the parts. */
export const system = createSystem(
  defaultConfig,
  defineConfig({
    globalCss: {
      'html, body, #root': { height: '100%' },
      body: { bg: 'paper', color: 'ink', fontFamily: 'body', fontSize: '13px', lineHeight: '18px', overflow: 'hidden' },
      ':focus-visible': { outline: '2px solid', outlineColor: 'verdigris', outlineOffset: '1px' },
      'input[type=checkbox], input[type=radio]': {
        accentColor: 'var(--chakra-colors-verdigris)',
        width: '15px',
        height: '15px',
        margin: 0,
        flex: 'none',
        cursor: 'pointer',
        display: 'block',
      },
      table: { borderCollapse: 'collapse', width: '100%' },
      th: {
        textAlign: 'left',
        fontWeight: 550,
        fontSize: '11.5px',
        lineHeight: '16px',
        color: 'muted',
        padding: '4px 8px 5px 0',
        borderBottom: '1px solid',
        borderColor: 'line',
        whiteSpace: 'nowrap',
      },
      td: {
        padding: '4px 8px 4px 0',
        borderBottom: '1px solid',
        borderColor: 'hairline',
        fontSize: '12.5px',
        lineHeight: '17px',
        verticalAlign: 'middle',
      },
      '.number': { textAlign: 'right' },
      'td.number': {
        fontFamily: 'mono',
        fontSize: '12px',
        wordSpacing: '-0.2em',
        whiteSpace: 'nowrap',
        fontVariantNumeric: 'tabular-nums',
        letterSpacing: '-0.01em',
      },
    },
    theme: {
      tokens: {
        fonts: {
          body: { value: "'Public Sans', sans-serif" },
          heading: { value: "'Public Sans', sans-serif" },
          mono: { value: "'Spline Sans Mono', monospace" },
        },
        radii: { sheet: { value: '4px' }, chip: { value: '3px' } },
      },
      semanticTokens: { colors: { ...colors, border: { value: '{colors.hairline}' } } },
      textStyles: {
        title: { value: { fontSize: '14px', lineHeight: '20px', fontWeight: 650, letterSpacing: '-0.005em' } },
        section: { value: { fontSize: '12.5px', lineHeight: '18px', fontWeight: 650 } },
        small: { value: { fontSize: '12px', lineHeight: '16px' } },
        code: {
          value: {
            fontFamily: "'Spline Sans Mono', monospace",
            fontSize: '12px',
            lineHeight: '17px',
            letterSpacing: '-0.01em',
            wordSpacing: '-0.2em',
          },
        },
      },
      slotRecipes: { menu },
      recipes: { button, input },
    },
  }),
);
