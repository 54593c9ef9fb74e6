// npm test: sets up all that the checks need, runs them, and ends with one line that sums them.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { ensureBuild, ensureDemoData, ensurePackages, root } from './setup.mjs';

/** Debian packages that the checks compare with or drive, and how to tell that they are there. */
const PYTHON = ['/usr/bin/python3', ['-c', 'import ezdxf, shapefile, pyproj, numpy, shapely, fastkml, gpxpy, openpyxl, PIL']];
const DEBIAN = [
  { packages: ['poppler-utils'], there: () => existsSync('/usr/bin/pdftotext') },
  { packages: ['geotiff-bin'], there: () => existsSync('/usr/bin/listgeo') },
  { packages: ['libopenjp2-tools'], there: () => existsSync('/usr/bin/opj_dump') },
  { packages: ['libtiff-tools'], there: () => existsSync('/usr/bin/tiffcp') },
  { packages: ['r-cran-stars'], there: () => existsSync('/usr/lib/R/site-library/stars/tif/L7_ETMs.tif') },
  { packages: ['chromium'], there: () => existsSync('/usr/bin/chromium') },
  {
    packages: [
      'python3-ezdxf',
      'python3-pyshp',
      'python3-pyproj',
      'python3-numpy',
      'python3-shapely',
      'python3-fastkml',
      'python3-gpxpy',
      'python3-openpyxl',
      'python3-pil',
      'proj-data',
    ],
    there: () => existsSync(PYTHON[0]) && spawnSync(...PYTHON).status === 0,
  },
];

function ensureDebianPackages() {
  const missing = DEBIAN.filter((d) => !d.there()).flatMap((d) => d.packages);
  if (missing.length === 0) return;
  const isRoot = process.getuid?.() === 0;
  if (isRoot && existsSync('/usr/bin/apt-get')) {
    console.log(`Installing Debian packages for the checks: ${missing.join(' ')}`);
    const apt = (...args) =>
      spawnSync('apt-get', args, { stdio: ['ignore', 'ignore', 'inherit'], env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } })
        .status === 0;
    apt('update', '-qq');
    if (apt('install', '-y', '-qq', '--no-install-recommends', ...missing) && DEBIAN.every((d) => d.there())) return;
  }
  console.error(`The checks need these Debian packages: apt-get install ${missing.join(' ')}`);
  process.exit(1);
}

const counts = { passed: 0, failed: 0 };

/** What failed, said once more at the end: the end is what is read first. */
const failures = [];

/** A check that passes or fails as a whole. */
function whole(name, command, args) {
  console.log(`\n== ${name}`);
  const ok = spawnSync(command, args, { cwd: root, stdio: 'inherit' }).status === 0;
  counts[ok ? 'passed' : 'failed']++;
  if (!ok) failures.push(name);
  console.log(ok ? `${name}: in order` : `${name}: FAILED`);
}

const output = path.join(root, '.test-output');
const bin = (name) => path.join(root, 'node_modules', '.bin', name);

/** One of the groups of tests; a group that does not end with a report counts as failed. */
function tests(project) {
  console.log(`\n== ${project} tests`);
  const report = path.join(output, `${project}.json`);
  spawnSync(bin('vitest'), ['run', '--project', project, '--reporter=default', '--reporter=json', `--outputFile.json=${report}`], {
    cwd: root,
    stdio: 'inherit',
  });
  if (!existsSync(report)) {
    counts.failed++;
    failures.push(`${project} tests: they ended without a report`);
    return;
  }
  const { numPassedTests, numFailedTests, numTotalTests, testResults } = JSON.parse(readFileSync(report, 'utf8'));
  counts.passed += numPassedTests;
  // a file that could not be loaded has no tests to count
  counts.failed +=
    numFailedTests + testResults.filter((r) => r.status === 'failed' && r.assertionResults.every((a) => a.status !== 'failed')).length;
  if (numTotalTests === 0) counts.failed++;
  for (const { name, status, message, assertionResults } of testResults) {
    const failed = assertionResults.filter((a) => a.status === 'failed');
    const file = path.relative(root, name);
    for (const { fullName, failureMessages } of failed) failures.push(`${file}: ${fullName}\n${failureMessages.join('\n')}`);
    if (status === 'failed' && failed.length === 0) failures.push(`${file}\n${message}`);
  }
}

ensurePackages();
ensureDebianPackages();
rmSync(output, { recursive: true, force: true });
mkdirSync(output, { recursive: true });
whole('type check', bin('tsc'), ['--noEmit', '-p', 'tsconfig.json']);
whole('lint', process.execPath, ['tools/lint.mjs']);
ensureBuild();
ensureDemoData();
for (const project of ['unit', 'apart', 'reference', 'browser']) tests(project);

if (failures.length > 0) console.log(`\n== What failed\n${failures.join('\n')}`);
console.log(`\n${counts.passed} passed, ${counts.failed} failed`);
process.exit(counts.failed > 0 ? 1 : 0);
