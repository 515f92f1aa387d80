import prettier from 'eslint-config-prettier';
import vue from 'eslint-plugin-vue';
import ts from 'typescript-eslint';

/** The order of dependence inside the core: a folder may import from one before it, never after. */
const order = [
  'catalogue',
  'link-parts',
  'hop',
  'values',
  'visits',
  'conversions',
  'reconcile',
  'figures',
  'placing',
  'keywords',
  'articles',
  'formats',
  'traffic',
  'costs',
  'queries',
  'where-used',
];
const houses = ['app', 'page-script', 'server', 'standins', 'demo', 'bench', 'e2e', 'simulation'];

const restrict = (patterns) => ({
  'no-restricted-imports': ['error', { patterns }],
});

const coreRules = order.map((folder, i) => {
  const later = folder === 'formats' ? order.filter((f) => f !== 'catalogue') : order.slice(i);
  return {
    files: [`core/${folder}/**/*.ts`],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: restrict([
      { group: later.map((f) => `#core/${f}`), message: `core/${folder} may not depend on this folder.` },
      { group: ['../*'], message: 'Other folders of the core are reached by their front door, #core/NAME.' },
      {
        group: ['node:*', 'vue', 'pinia', 'express', 'vuetify'],
        message: 'The core knows no platform and no interface.',
      },
    ]),
  };
});

/** What each house may use of another, besides the core. */
const neighbours = {
  server: ['standins'],
  demo: ['server', 'standins'],
  bench: ['server', 'demo'],
  e2e: ['server', 'standins', 'demo'],
  simulation: ['app', 'server'],
};
const houseRules = houses.map((house) => ({
  files: [`${house}/**/*.ts`, `${house}/**/*.vue`],
  rules: restrict([
    // A bench may measure against the plain way that tests compare with.
    {
      regex: '(^|/)core/(?!\\w+/testing/)',
      message: 'The core is reached by its front doors, #core/NAME.',
    },
    {
      group: houses
        .filter((h) => h !== house && !(neighbours[house] ?? []).includes(h))
        .flatMap((h) => [`../${h}/*`, `../${h}/**`, `../../${h}/**`]),
      message: `${house} may not import from here.`,
    },
  ]),
}));

export default ts.config(
  { ignores: ['dist/', 'data/', 'node_modules/'] },
  ...ts.configs.strict,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'vue/multi-word-component-names': 'off',
      'vue/no-v-html': 'error',
      'vue/no-undef-components': [
        'error',
        { ignorePatterns: ['^v-', '^router-', '^text-link$', '^small-table$'] },
      ],
      // Controls and tables are Vuetify's; a native one needs a reason on its line.
      'vue/no-restricted-html-elements': [
        'error',
        ...['button', 'input', 'select', 'textarea', 'table', 'details', 'dialog', 'progress'].map(
          (element) => ({
            element,
            message: 'Use a component of Vuetify, or say on the line why not.',
          }),
        ),
      ],
      eqeqeq: 'error',
      'no-console': ['error', { allow: ['error'] }],
    },
  },
  { files: ['scripts/**', 'demo/**', 'bench/**'], rules: { 'no-console': 'off' } },
  {
    files: ['scripts/**/*.mjs'],
    languageOptions: { globals: { process: 'readonly', console: 'readonly', Buffer: 'readonly' } },
  },
  ...coreRules,
  ...houseRules,
  prettier,
);
