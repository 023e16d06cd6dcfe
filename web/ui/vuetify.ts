import 'vuetify/styles/core';
import 'vuetify/styles/utilities';
import './look.css';
import './words.css';
import { createVuetify } from 'vuetify';
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg';
import { THEMES, tokenStyles } from './theme';

const FIELD = {
  variant: 'outlined',
  density: 'compact',
  hideDetails: 'auto',
  color: 'primary',
  baseColor: 'ink-soft',
} as const;
const CHOICE = { density: 'compact', hideDetails: 'auto', color: 'primary' } as const;

/** Vuetify as this page uses it: its one theme, and what its parts look like everywhere. */
export function ourVuetify() {
  const style = document.createElement('style');
  style.textContent = tokenStyles();
  document.head.append(style);
  return createVuetify({
    icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
    theme: { defaultTheme: 'night', themes: THEMES },
    // From 800 pixels a view has room for what stands beside it, from 1180 for words in the top line.
    display: { mobileBreakpoint: 'sm', thresholds: { sm: 800, md: 1024, lg: 1180, xl: 1920, xxl: 2560 } },
    defaults: {
      global: { ripple: false, rounded: 0, elevation: 0 },
      VBtn: { variant: 'text', size: 'small' },
      VIcon: { size: 16 },
      VBtnToggle: { density: 'compact', variant: 'outlined', mandatory: true, divided: true },
      VTextField: FIELD,
      VNumberInput: { ...FIELD, controlVariant: 'stacked' },
      VSelect: { ...FIELD, menuProps: { transition: false } },
      VCombobox: { ...FIELD, menuProps: { transition: false } },
      VAutocomplete: { ...FIELD, menuProps: { transition: false } },
      VFileInput: FIELD,
      VCheckbox: CHOICE,
      VRadioGroup: { ...CHOICE, inline: true },
      VRadio: { density: 'compact', color: 'primary' },
      VSwitch: { ...CHOICE, inset: false },
      VTabs: { density: 'compact', height: 30, color: 'primary' },
      VTab: { minWidth: 0 },
      VMenu: { transition: false },
      VTooltip: { transition: false, openDelay: 600 },
      VDialog: { transition: false, scrollable: true },
      VCard: { variant: 'flat', border: true },
      VList: { density: 'compact', bgColor: 'raised' },
      VTable: { density: 'compact', bgColor: 'transparent' },
      VDataTable: { density: 'compact', itemsPerPage: -1, hideDefaultFooter: true, bgColor: 'transparent' },
      VChip: { size: 'small', label: true, variant: 'outlined' },
      VAlert: { variant: 'outlined', density: 'compact' },
      VProgressLinear: { color: 'primary', height: 6, bgColor: 'well', bgOpacity: 1 },
      VHotkey: { variant: 'outlined', displayMode: 'text' },
      VExpansionPanels: { variant: 'accordion', static: true },
      VSnackbar: { location: 'bottom', variant: 'flat' },
    },
  });
}
