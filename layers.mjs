// Who may import whom: one table. ESLint's import rules are generated from it (eslint.config.mjs), and a folder
// under src/ without a row fails the lint run. A row names the layers a folder may see besides itself.
// Test files and testing/ folders may see everything.
export const layers = {
  'core/files': ['core/text', 'core/errors'],
  'core/text': ['core/problem'],
  'core/names': ['core/text', 'core/files'],
  'core/formats': ['core/files', 'core/text', 'core/problem'],
  'core/references': ['core/files', 'core/text', 'core/names', 'core/formats', 'core/problem', 'core/errors'],
  'core/units': ['core/formats', 'core/files', 'core/text', 'core/problem'],
  'core/layouts': [
    'core/versions',
    'core/units',
    'core/files',
    'core/text',
    'core/names',
    'core/formats',
    'core/problem',
    'core/errors',
  ],
  'core/store': ['core/files', 'core/text', 'core/errors', 'core/problem'],
  'core/changes': ['core/convert', 'core/files', 'core/text', 'core/store', 'core/errors', 'core/problem'],
  'core/versions': ['core/files', 'core/names', 'core/text'],
  'core/bags': [
    'core/files',
    'core/text',
    'core/names',
    'core/references',
    'core/formats',
    'core/problem',
    'core/errors',
  ],
  'core/documents': ['core/text', 'core/formats', 'core/problem'],
  'core/convert': ['core/documents', 'core/formats', 'core/text', 'core/problem'],
  'core/compare': ['core/convert', 'core/documents', 'core/files', 'core/text', 'core/formats', 'core/store', 'core/problem'],
  'core/repeats': ['core/documents', 'core/formats', 'core/store', 'core/text', 'core/problem'],
  'core/outputs': ['core/files', 'core/text', 'core/names', 'core/layouts', 'core/problem'],
  'core/plans': ['core/*'],
  'core/problem': [],
  'core/errors': [],
  wire: ['core/*'],
  server: ['core/*', 'wire'],
  cli: ['core/*', 'wire', 'server'],
  ui: ['core/*', 'wire'],
  app: ['ui', 'server', 'wire', 'core/errors'],
  proxy: ['server', 'core/errors'],
  instrumentation: ['server'],
};

// Packages the core may use: pure ones only. Everything else in core is a relative import.
export const corePackages = ['@noble/hashes', 'fflate'];
