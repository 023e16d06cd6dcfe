import '@fontsource/atkinson-hyperlegible-next/400.css';
import '@fontsource/atkinson-hyperlegible-next/600.css';
import '@fontsource/atkinson-hyperlegible-mono/400.css';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import { i18n } from '@/ui/language';
import { ourVuetify } from '@/ui/vuetify';
import { openEarly } from '@/session/sync/early';
import App from './App.vue';
import { languageFor, speak } from './languages';
import { router } from './router';

openEarly(location.pathname);
const language = languageFor(navigator.languages);
if (language !== 'en') await speak(language);
createApp(App).use(createPinia()).use(router).use(ourVuetify()).use(i18n).mount('#app');
