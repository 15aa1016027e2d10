import js from '@eslint/js';
import ts from 'typescript-eslint';
import hooks from 'eslint-plugin-react-hooks';

export default ts.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '.oscillum/**', 'demo/out/**', 'e2e/results/**', '*.cjs'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'no-constant-condition': ['error', { checkLoops: false }],
    },
  },
  {
    // Longer ones need their reason here: up to 500 lines a file, 120 a function.
    files: ['**/*.{ts,tsx,mjs}'],
    ignores: ['**/*.generated.ts'],
    rules: {
      'max-lines': ['error', { max: 400 }],
      'max-len': ['error', { code: 160, comments: 120, ignoreStrings: true, ignoreTemplateLiterals: true }],
    },
  },
  {
    files: ['**/*.{ts,tsx,mjs}'],
    // A test is a list of what is shown: its functions hold other functions.
    ignores: ['**/*.test.ts', '**/*.spec.ts'],
    rules: { 'max-lines-per-function': ['error', { max: 80, IIFEs: true }] },
  },
  {
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      // The core has no clock, no chance and no machine-dependent trigonometry (see docs/simulation.md).
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'performance',
        'setTimeout',
        'fetch',
      ],
      'no-restricted-properties': [
        'error',
        ...[
          'sin',
          'cos',
          'tan',
          'exp',
          'log',
          'pow',
          'acos',
          'asin',
          'atan',
          'atan2',
          'hypot',
          'cbrt',
          'random',
        ].map((property) => ({
          object: 'Math',
          property,
          message: 'Not specified to the bit: use math/trig or math/random.',
        })),
        { object: 'Date', property: 'now', message: 'The core has no clock.' },
      ],
    },
  },
  {
    files: ['web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
  {
    files: ['scripts/**/*.mjs', 'cli/bin/*.mjs', 'e2e/*.mjs'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        fetch: 'readonly',
        setTimeout: 'readonly',
        clearTimeout: 'readonly',
        Buffer: 'readonly',
        performance: 'readonly',
      },
    },
  },
);
