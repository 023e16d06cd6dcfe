import '@fontsource/atkinson-hyperlegible-next/400.css';
import '@fontsource/atkinson-hyperlegible-next/600.css';
import '@fontsource/atkinson-hyperlegible-mono/400.css';
import 'vuetify/styles';
import '@/ui/theme.css';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import { createVuetify } from 'vuetify';
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg';
import App from './App.vue';
import { router } from './router';

const theme = (
  dark: boolean,
  c: Record<'background' | 'surface' | 'primary' | 'error' | 'warning' | 'on-surface', string>,
) => ({ dark, colors: c });

const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    defaultTheme: 'night',
    themes: {
      night: theme(true, {
        background: '#10191d',
        surface: '#1d2e35',
        primary: '#58c9a4',
        error: '#ff7b61',
        warning: '#e3c567',
        'on-surface': '#e9eee6',
      }),
      day: theme(false, {
        background: '#e9e4d6',
        surface: '#ffffff',
        primary: '#0e6a4e',
        error: '#ae331b',
        warning: '#7d5f00',
        'on-surface': '#1c2a2e',
      }),
    },
  },
});

createApp(App).use(createPinia()).use(router).use(vuetify).mount('#app');
