import { CORE_FLOORS, PACKAGES } from './tools/floors.mjs';

const floorsOfCore = CORE_FLOORS.slice(0, -1).map((floor, k) => ({
  name: `core-${floor}-looks-down`,
  comment: `What stands in core/${floor} uses what lies below it only (tools/floors.mjs).`,
  severity: 'error',
  from: { path: `^packages/core/src/${floor}/` },
  to: { path: `^packages/core/src/(${CORE_FLOORS.slice(k + 1).join('|')})/` },
}));

const packages = Object.entries(PACKAGES).map(([name, may]) => ({
  name: `${name}-keeps-to-its-packages`,
  comment: `${name} may use ${may.join(', ') || 'no other package'} (tools/floors.mjs).`,
  severity: 'error',
  from: { path: `^packages/${name}/src/` },
  to: { path: `^packages/(?!${[name, ...may].join('/|')}/)` },
}));

export default {
  forbidden: [
    {
      name: 'no-circle',
      comment: 'Two files that need each other are one, or want a third below both.',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    ...floorsOfCore,
    ...packages,
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '/(test|data)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.json'],
    },
    cache: false,
  },
};
