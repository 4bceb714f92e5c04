import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['node_modules', 'build', '.data', '.react-router', 'test-results', 'server/db/migrations'] },
  ...tseslint.configs.recommended,
  { files: ['app/**/*.tsx', 'app/**/*.ts'], plugins: { 'react-hooks': reactHooks }, rules: reactHooks.configs.recommended.rules },
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': ['error', { disallowTypeAnnotations: false }],
      'no-console': ['error', { allow: ['error', 'log'] }],
      eqeqeq: 'error',
    },
  },
  {
    // One room for one thing: what a kind means is asked of its room (core/steps, app/steps), never worked out elsewhere.
    files: ['core/**/*.ts', 'server/**/*.ts', 'app/**/*.ts', 'app/**/*.tsx'],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        { selector: 'SwitchStatement > MemberExpression.discriminant[property.name="kind"]', message: 'Ask the room of the kind instead.' },
        { selector: 'BinaryExpression > MemberExpression[object.name=/^(step|s)$/][property.name="kind"]', message: 'Ask the room of the step.' },
      ],
    },
  },
  {
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-globals': ['error', 'fetch', 'process', 'window', 'document', 'setTimeout', 'setInterval'],
      'no-restricted-properties': ['error', { object: 'Date', property: 'now' }, { object: 'Math', property: 'random' }],
    },
  },
);
