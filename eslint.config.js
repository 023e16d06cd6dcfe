import { readdirSync } from 'node:fs';
import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import i18n from '@intlify/eslint-plugin-vue-i18n';
import imports from 'eslint-plugin-import-x';
import vue from 'eslint-plugin-vue';
import globals from 'globals';
import ts from 'typescript-eslint';
import vueParser from 'vue-eslint-parser';

const outside = [
  '**/server/**',
  '**/web/**',
  '**/engine/**',
  '**/demo/**',
  '**/bin/**',
  '**/scripts/**',
  '**/e2e/**',
];

/** Rooms of the page that all features use, and the features, none of which uses another. */
const SHARED = ['ui', 'audio', 'session', 'commands', 'testing'];
const FEATURES = [
  'answers',
  'automation',
  'findings',
  'flow',
  'inserts',
  'machines',
  'meters',
  'print',
  'sessions',
  'sheet',
  'strip',
  'surface',
];
const zone = (target, except, message) => ({
  target: `./web/${target}`,
  from: './web',
  except: except.map((room) => `./${room}`),
  message,
});

/** Rooms of the core, from the ground up: each knows only those that stand before it, so that none imports itself by a circle. */
const CORE = [
  'base',
  'wire',
  'levels',
  'metering',
  'naming',
  'processors',
  'devices',
  'session',
  'groups',
  'edits',
  'automation',
  'routing',
  'plan',
  'operations',
  'findings',
  'settings',
  'surface',
  'osc',
  'formats',
];

for (const room of readdirSync(new URL('core', import.meta.url), { withFileTypes: true }))
  if (room.isDirectory() && !CORE.includes(room.name) && room.name !== 'testing')
    throw new Error(`Say in CORE on which floor core/${room.name} stands.`);

export default ts.config(
  {
    ignores: [
      'build/',
      'dist/',
      '.data/',
      'node_modules/',
      'engine/assembly/',
      'test-results/',
      'playwright-report/',
    ],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  { languageOptions: { globals: { ...globals.node, ...globals.browser } } },
  {
    files: ['**/*.vue'],
    languageOptions: {
      parser: vueParser,
      parserOptions: { parser: ts.parser, extraFileExtensions: ['.vue'] },
    },
  },
  {
    rules: {
      'no-undef': 'off',
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      eqeqeq: 'error',
      // A table of fields becomes a type by a name.
      '@typescript-eslint/no-empty-object-type': ['error', { allowInterfaces: 'with-single-extends' }],
    },
  },
  {
    // The core is the job itself: it knows no page, no server and no machine.
    files: ['core/**/*.ts'],
    ignores: ['core/**/*.test.ts', 'core/testing/**'],
    plugins: { 'import-x': imports },
    settings: { 'import-x/resolver-next': [createTypeScriptImportResolver({ project: 'tsconfig.json' })] },
    rules: {
      'import-x/no-restricted-paths': [
        'error',
        {
          zones: CORE.map((room, i) => ({
            target: `./core/${room}`,
            from: './core',
            except: CORE.slice(0, i + 1).map((r) => `./${r}`),
            message: 'Rooms of the core know those that stand below them: see CORE in eslint.config.js.',
          })),
        },
      ],
      'no-restricted-imports': [
        'error',
        {
          paths: ['vue', 'pinia', 'express', 'sequelize', 'pg', 'fs', 'path', 'crypto', 'os', 'stream'],
          patterns: [
            { group: ['node:*'], message: 'core runs everywhere: no Node in it.' },
            { group: outside, message: 'Imports run one way: nothing in core knows what stands around it.' },
          ],
        },
      ],
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'Buffer',
        'navigator',
        'localStorage',
      ],
    },
  },
  {
    files: ['engine/**/*.ts'],
    ignores: ['engine/**/*.test.ts', 'engine/testing/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['**/server/**', '**/web/**', 'node:*'],
              message: 'The engine loader knows core alone.',
            },
          ],
        },
      ],
    },
  },
  {
    files: ['server/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: [{ group: ['**/web/**'], message: 'The server knows no page.' }] },
      ],
    },
  },
  {
    files: ['web/**/*.{ts,vue}'],
    plugins: { 'import-x': imports },
    settings: {
      'import-x/resolver-next': [createTypeScriptImportResolver({ project: 'tsconfig.json' })],
      'import-x/extensions': ['.ts', '.vue'],
    },
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: [{ group: ['**/server/**', 'node:*'], message: 'The page knows no server code.' }] },
      ],
      'import-x/no-restricted-paths': [
        'error',
        {
          zones: [
            ...FEATURES.map((f) =>
              zone(f, [f, ...SHARED], 'A feature knows what all share, and no other feature.'),
            ),
            ...['audio', 'session', 'commands'].map((room) =>
              zone(room, SHARED, 'What features share knows none of them.'),
            ),
            zone('ui', ['ui'], 'What is drawn with knows nothing of sessions.'),
          ],
        },
      ],
    },
  },
  {
    // What is read stands in the texts of its room; units, letters on keys and signs are no words.
    files: ['web/**/*.vue'],
    plugins: { '@intlify/vue-i18n': i18n },
    rules: {
      '@intlify/vue-i18n/no-raw-text': [
        'error',
        {
          attributes: {
            '/.+/': [
              'title',
              'label',
              'aria-label',
              'placeholder',
              'text',
              'hint',
              'headline',
              'subtitle',
              'alt',
              'what',
            ],
          },
          ignorePattern: '^[^A-Za-z]*(dBFS|dBTP|LUFS|dB|Hz|s|ms|kHz|LU|M|S)?[^A-Za-z]*$',
        },
      ],
    },
  },
  {
    // A text that is made while a module is read stays in the language that the page began in.
    files: ['web/**/*.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: 'CallExpression[callee.name="say"]:not(:function CallExpression)',
          message: 'Say it inside a function: the language may change after the module was read.',
        },
      ],
    },
  },
  {
    // What runs needs nothing that `npm ci --omit=dev` leaves out.
    files: [
      '{core,engine,server,web,demo,bin}/**/*.{ts,vue,mjs,cjs}',
      'scripts/*.{mjs,cjs}',
      '*.config.ts',
      'aliases.ts',
    ],
    ignores: [
      '**/*.test.ts',
      '**/testing/**',
      'scripts/test.mjs',
      'scripts/bench.mjs',
      'scripts/screenshots.mjs',
      'scripts/pageCounts.mjs',
      '{playwright,vitest,eslint}.config.*',
    ],
    plugins: { 'import-x': imports },
    settings: { 'import-x/resolver-next': [createTypeScriptImportResolver({ project: 'tsconfig.json' })] },
    rules: {
      'import-x/no-extraneous-dependencies': [
        'error',
        // Folders may have a package.json of their own that only tells the kind of its modules.
        { devDependencies: false, peerDependencies: false, packageDir: import.meta.dirname },
      ],
    },
  },
  {
    files: ['**/*.ts', '**/*.vue'],
    ignores: ['core/session/fields/joi.ts'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          paths: [
            {
              name: 'joi',
              allowTypeImports: true,
              message: 'Take core/session/fields/joi: its strings are text that the database can keep.',
            },
          ],
        },
      ],
    },
  },
  {
    // What only the compiler's knowledge of types shows: promises that nobody waits for, conditions on them, and what is called
    // with what it does not take.
    files: ['{core,engine,server,bin,demo,web,scripts,e2e}/**/*.ts'],
    languageOptions: { parserOptions: { projectService: true } },
    rules: {
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': [
        'error',
        { checksVoidReturn: { arguments: false, attributes: false } },
      ],
      '@typescript-eslint/no-for-in-array': 'error',
      '@typescript-eslint/no-implied-eval': 'error',
      '@typescript-eslint/only-throw-error': 'error',
      '@typescript-eslint/prefer-promise-reject-errors': 'error',
      '@typescript-eslint/require-array-sort-compare': 'error',
      '@typescript-eslint/restrict-plus-operands': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': [
        'error',
        { considerDefaultExhaustiveForUnions: true },
      ],
      '@typescript-eslint/no-array-delete': 'error',
      '@typescript-eslint/no-base-to-string': 'error',
      '@typescript-eslint/no-duplicate-type-constituents': 'error',
      '@typescript-eslint/no-redundant-type-constituents': 'error',
    },
  },
  // What runs before a command does is CommonJS: see scripts/stale.cjs.
  { files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
  // What an answer of the API holds is what a test finds out.
  { files: ['**/*.test.ts', 'server/testing/**'], rules: { '@typescript-eslint/no-explicit-any': 'off' } },
  prettier,
);
