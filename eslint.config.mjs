// Lint rules: Next.js and TypeScript's own sets, and the fence between layers generated from layers.mjs.
import { readdirSync, statSync } from 'node:fs';
import path from 'node:path';
import next from 'eslint-config-next/core-web-vitals';
import ts from 'typescript-eslint';
import { layers, corePackages, writers } from './layers.mjs';

const src = path.join(import.meta.dirname, 'src');
const names = Object.keys(layers);

/** The layer a path below src/ belongs to, or null where no row covers it. */
function layerOf(relative) {
  const bare = relative.replaceAll('\\', '/').replace(/\.tsx?$/, '');
  return names.find((n) => bare === n || bare.startsWith(`${n}/`)) ?? null;
}

function* files(dir) {
  for (const name of readdirSync(dir)) {
    const full = path.join(dir, name);
    if (statSync(full).isDirectory()) yield* files(full);
    else if (/\.tsx?$/.test(name)) yield full;
  }
}
const homeless = [...files(src)].filter((f) => !layerOf(path.relative(src, f)));
if (homeless.length)
  throw new Error(`layers.mjs has no row for: ${homeless.map((f) => path.relative(src, f)).join(', ')}`);

const fence = {
  meta: { type: 'problem', schema: [] },
  create(context) {
    const file = path.relative(src, context.filename);
    const own = layerOf(file);
    const check = (node) => {
      const wanted = node.source?.value;
      if (typeof wanted !== 'string' || !own) return;
      const isCore = own.startsWith('core/');
      if (!wanted.startsWith('.') && !wanted.startsWith('@/')) {
        if (isCore && !corePackages.some((p) => wanted === p || wanted.startsWith(`${p}/`)))
          context.report({ node, message: `core imports no package such as ${wanted}` });
        return;
      }
      const target = wanted.startsWith('@/')
        ? wanted.slice(2)
        : path.relative(src, path.resolve(path.dirname(context.filename), wanted));
      const other = layerOf(target);
      if (!other) return context.report({ node, message: `${target} is in no layer of layers.mjs` });
      const allowed =
        other === own ||
        layers[own].some((a) => a === other || (a === 'core/*' && other.startsWith('core/')));
      if (!allowed) context.report({ node, message: `${own} may not import ${other} (layers.mjs)` });
    };
    return {
      ImportDeclaration: check,
      ExportNamedDeclaration: check,
      ExportAllDeclaration: check,
      ImportExpression: check,
    };
  },
};

const changing =
  /^(write|append|rename|unlink|rm|rmdir|mkdir|mkdtemp|copyFile|cp|link|symlink|l?truncate|ftruncate|l?utimes|futimes|l?f?chmod|l?f?chown|createWriteStream)([A-Z]|$)/;

/** Allows Node.js calls that write to disk, and DiskTree, only in the files listed in `writers`. */
const write = {
  meta: { type: 'problem', schema: [] },
  create(context) {
    const file = path
      .relative(src, context.filename)
      .replaceAll('\\', '/')
      .replace(/\.tsx?$/, '');
    if (Object.keys(writers).some((w) => file === w || (w.endsWith('/') && file.startsWith(w)))) return {};
    const report = (node, what) =>
      context.report({ node, message: `${what}: ${file} is not listed in writers (layers.mjs)` });
    const isNode = (source) => /^(node:)?fs(\/promises)?$/.test(source);
    return {
      ImportDeclaration(node) {
        for (const s of node.specifiers) {
          const name = s.imported?.name;
          if (name === 'DiskTree' && node.importKind !== 'type' && s.importKind !== 'type')
            report(s, 'DiskTree writes');
          if (name && isNode(node.source.value) && changing.test(name)) report(s, `${name} writes`);
        }
      },
      MemberExpression({ object, property }) {
        const isFs =
          object.name === 'fs' || (object.object?.name === 'fs' && object.property?.name === 'promises');
        const name = property.name ?? property.value;
        if (isFs && changing.test(String(name))) report(property, `fs.${name} writes`);
        // Only a literal 'r' counts as read-only.
        const call = property.parent?.parent;
        if (isFs && /^open(Sync)?$/.test(name) && call?.arguments?.[1]?.value !== 'r')
          report(property, `fs.${name} may write`);
      },
    };
  },
};

// React's rules compile each component and hook to look at it: only where there can be one. That takes as long as all else together: `npm test` leaves it
// to `npm run test:deep`.
const pages = ['src/app/**', 'src/ui/**', '**/*.tsx'];
const isShort = process.env.SATCHEL_DEPTH === 'short';
const needsNoCompiler = new Set(['react-hooks/rules-of-hooks', 'react-hooks/exhaustive-deps']);
const shortRules = (rules) =>
  Object.fromEntries(
    Object.entries(rules).filter(([name]) => !name.startsWith('react-hooks/') || needsNoCompiler.has(name)),
  );
const forPages = next.map((set) =>
  set.rules ? { ...set, files: pages, rules: isShort ? shortRules(set.rules) : set.rules } : set,
);

const eslintConfig = [
  {
    ignores: [
      'release/**',
      '.next/**',
      'dist/**',
      'node_modules/**',
      'next-env.d.ts',
      'demo-data/**',
      '.cache/**',
      'test-results/**',
      'playwright-report/**',
    ],
  },
  // A comment that switches off a rule of the deep run is not unused.
  ...(isShort ? [{ linterOptions: { reportUnusedDisableDirectives: 'off' } }] : []),
  ...forPages,
  ...ts.configs.recommended,
  {
    files: ['src/**/*.{ts,tsx}'],
    ignores: ['**/*.test.ts', '**/*.test.tsx', '**/testing/**'],
    plugins: { satchel: { rules: { fence, write } } },
    rules: { 'satchel/fence': 'error' },
  },
  {
    files: ['src/server/**/*.ts', 'src/cli/**/*.ts'],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: { 'satchel/write': 'error' },
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', caughtErrors: 'none' },
      ],
      'no-control-regex': 'off',
    },
  },
];
export default eslintConfig;
