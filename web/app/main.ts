import '@fontsource/atkinson-hyperlegible-next/400.css';
import '@fontsource/atkinson-hyperlegible-next/600.css';
import '@fontsource/atkinson-hyperlegible-mono/400.css';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import { ourVuetify } from '@/ui/vuetify';
import { openEarly } from '@/session/sync/early';
import App from './App.vue';
import { router } from './router';

openEarly(location.pathname);
createApp(App).use(createPinia()).use(router).use(ourVuetify()).mount('#app');
