import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/**
 * What a test looks for is found by its whole words, or by a pattern that says which part of them is meant: the same part may stand
 * elsewhere as well, today or tomorrow.
 * @type {import('eslint').Rule.RuleModule}
 */
const wholeWords = {
  meta: { type: 'problem', schema: [] },
  create: (context) => ({
    CallExpression(node) {
      const how = node.callee.type === 'MemberExpression' && node.callee.property.type === 'Identifier' ? node.callee.property.name : '';
      if (!/^getBy(Role|Text|Label|Placeholder)$/.test(how)) return;
      const [subject, options] = node.arguments;
      const given = (/** @type {string} */ name) =>
        [subject, options]
          .flatMap((o) => (o?.type === 'ObjectExpression' ? o.properties : []))
          .flatMap((p) => (p.type === 'Property' && p.key.type === 'Identifier' && p.key.name === name ? [p.value] : []))[0];
      const words = how === 'getByRole' ? given('name') : subject;
      const exact = given('exact');
      if (exact?.type === 'Literal' && exact.value === true) return;
      // A word that stands there as text; what is a pattern, or is made one, may find a part.
      if (exact || words?.type === 'TemplateLiteral' || (words?.type === 'Literal' && typeof words.value === 'string'))
        context.report({ node, message: 'Say exact: true, or give a pattern of what is meant.' });
    },
  }),
};

/**
 * A list is opened by `choose`, which waits until ours has taken the place of the browser's: a press on that one opens what no test sees.
 * @type {import('eslint').Rule.RuleModule}
 */
const listOfOurs = {
  meta: { type: 'problem', schema: [] },
  create: (context) => ({
    'CallExpression[callee.property.name="click"] > MemberExpression.callee > CallExpression.object[callee.property.name="getByRole"][arguments.0.value="combobox"]'(
      /** @type {import('eslint').Rule.Node} */ node,
    ) {
      context.report({ node, message: 'Open a list by choose() or choicesOf(): they wait until it is ours.' });
    },
  }),
};

/**
 * An address is read once the page has come there: what a click leads to is waited for first, for a page follows its click later.
 * @type {import('eslint').Rule.RuleModule}
 */
const settledAddress = {
  meta: { type: 'problem', schema: [] },
  create: (context) => ({
    'CallExpression[arguments.length=0] > MemberExpression.callee[property.name="url"] > Identifier.object'(node) {
      let statement = node;
      while (statement.parent && !/Statement$|^VariableDeclaration$/.test(statement.type)) statement = statement.parent;
      const among = statement.parent?.type === 'BlockStatement' ? statement.parent.body : [];
      const words = (/** @type {import('eslint').Rule.Node} */ n) => context.sourceCode.getText(n);
      // What is asked again and again waits by itself.
      if (/expect\.poll\(/.test(words(statement))) return;
      const before = among.slice(0, among.indexOf(statement)).filter((s) => new RegExp(`\\b${node.name}\\b(?!')`).test(words(s)));
      if (/\.(click|press)\(/.test(before.length ? words(before[before.length - 1]) : ''))
        context.report({ node, message: 'Wait for what the click leads to before the address is read.' });
    },
  }),
};

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
    files: ['e2e/**/*.ts'],
    plugins: { ours: { rules: { 'whole-words': wholeWords, 'settled-address': settledAddress, 'list-of-ours': listOfOurs } } },
    rules: { 'ours/whole-words': 'error', 'ours/settled-address': 'error', 'ours/list-of-ours': 'error' },
  },
  {
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-globals': ['error', 'fetch', 'process', 'window', 'document', 'setTimeout', 'setInterval'],
      'no-restricted-properties': ['error', { object: 'Date', property: 'now' }, { object: 'Math', property: 'random' }],
    },
  },
);
