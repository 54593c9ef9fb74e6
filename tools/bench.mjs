// npm run bench: speed as a ratio to named libraries that do the same work in the same run. Never a test.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import esbuild from 'esbuild';
import { nodeOptions } from './build.mjs';
import { ensureBuild, ensurePackages, root } from './setup.mjs';

ensurePackages();
ensureBuild();
const { writeManyLines } = await import('../bench/many-lines.mjs');
const folder = mkdtempSync(path.join(tmpdir(), 'pontrel-bench-'));
const PYTHON = '/usr/bin/python3';
const run = (command, args) => {
  const result = spawnSync(command, args, { cwd: root, encoding: 'utf8', maxBuffer: 1 << 28 });
  if (result.status !== 0) throw new Error(`${command} ${args.join(' ')}: ${result.stderr}`);
  return result;
};

/** Parts that are asked for by name: records, revisions, areas, surface, pictures, projection; all when none is. */
const asked = process.argv.slice(2);
const isAsked = (part) => asked.length === 0 || asked.includes(part);

/** The built command line, which says at its end how much memory it held. */
const PEAK = 'data:text/javascript,process.on("exit",()=>console.error("peak",process.resourceUsage().maxRSS))';
const pontrel = (...args) => run(process.execPath, ['--import', PEAK, 'dist/cli.mjs', ...args, '--json']);
const peakMB = (stderr) => Number(/peak (\d+)/.exec(stderr)[1]) / 1024;

try {
  console.log(`${cpus()[0].model.trim()}, ${cpus().length} cores, Node.js ${process.version}\n`);
  if (isAsked('records')) {
    const LINES = 500_000;
    const drawing = path.join(folder, 'lines.dxf');
    await writeManyLines(drawing, LINES);
    const megabytes = statSync(drawing).size / 1e6;

    console.log(`A drawing of ${LINES} lines (${megabytes.toFixed(0)} MB) from EPSG:2193 into a shapefile in EPSG:2126`);
    let ours = Infinity,
      memory = 0;
    for (let k = 0; k < 3; k++) {
      const start = performance.now();
      const { stdout, stderr } = pontrel('convert', drawing, path.join(folder, 'ours.shp'), '--from', 'EPSG:2193', '--to', 'EPSG:2126');
      ours = Math.min(ours, (performance.now() - start) / 1000);
      memory = Math.max(memory, peakMB(stderr));
      const { proof } = JSON.parse(stdout);
      if (proof.status !== 'match' || proof.records.out !== LINES) throw new Error('The crossing was not proved; its speed means nothing.');
    }
    const theirs = JSON.parse(
      run(PYTHON, ['bench/reference_crossing.py', drawing, path.join(folder, 'theirs.shp'), 'EPSG:2193', 'EPSG:2126']).stdout,
    );
    console.log(
      `  Pontrel, read, written and proved   ${ours.toFixed(2)} s, ${(megabytes / ours).toFixed(1)} MB/s, at most ${memory.toFixed(0)} MB of memory (best of 3)`,
    );
    console.log(
      `  ezdxf + pyproj + pyshp, not proved  ${theirs.all.toFixed(2)} s (read ${theirs.read.toFixed(1)}, carry ${theirs.carry.toFixed(1)}, write ${theirs.write.toFixed(1)})`,
    );
    console.log(`  ratio ${(theirs.all / ours).toFixed(1)}\n`);

    const PARCELS = 300_000;
    const county = path.join(folder, 'county');
    run(PYTHON, ['bench/reference_parcels.py', 'make', county, String(PARCELS)]);
    console.log(`${PARCELS} parcels (${(PARCELS * 8) / 1e6} million vertices) from a shapefile into a GeoPackage`);
    const begun = performance.now();
    const crossed = pontrel('convert', `${county}.shp`, path.join(folder, 'county.gpkg'), '--from', 'EPSG:2193');
    const seconds = (performance.now() - begun) / 1000;
    const parcels = JSON.parse(crossed.stdout).proof;
    if (parcels.status !== 'match' || parcels.records.out !== PARCELS)
      throw new Error('The crossing was not proved; its speed means nothing.');
    const plain = JSON.parse(run(PYTHON, ['bench/reference_parcels.py', 'cross', county, path.join(folder, 'theirs.sqlite')]).stdout).cross;
    console.log(
      `  Pontrel, with index, read back and proved  ${seconds.toFixed(1)} s, at most ${peakMB(crossed.stderr).toFixed(0)} MB of memory`,
    );
    console.log(`  pyshp + sqlite3, no index, not proved      ${plain.toFixed(1)} s; ratio ${(plain / seconds).toFixed(1)}\n`);

    const reading = path.join(root, 'dist', 'bench-reading.mjs');
    await esbuild.build({
      ...nodeOptions,
      entryPoints: ['bench/reading.ts'],
      outfile: reading,
      sourcemap: false,
    });
    const { manyKinds, ourReading, parserReading } = await import(pathToFileURL(reading));
    const kinds = path.join(folder, 'kinds.dxf');
    writeFileSync(kinds, manyKinds(60));
    for (const [name, file] of [
      ['lines only', drawing],
      ['blocks, polylines, texts, hatches', kinds],
    ]) {
      const size = statSync(file).size / 1e6;
      const mine = await ourReading(file),
        parser = await parserReading(file);
      const ezdxf = JSON.parse(run(PYTHON, ['bench/reference_reading.py', file]).stdout);
      console.log(
        `Reading ${size.toFixed(0)} MB of drawing, ${name}: Pontrel ${(size / mine.seconds).toFixed(1)} MB/s (${mine.objects} records), dxf-parser ${(size / parser.seconds).toFixed(1)} MB/s, ezdxf ${(size / ezdxf.seconds).toFixed(2)} MB/s`,
      );
      console.log(
        `  ratio ${(parser.seconds / mine.seconds).toFixed(1)} to dxf-parser, ${(ezdxf.seconds / mine.seconds).toFixed(0)} to ezdxf`,
      );
    }
    rmSync(reading, { force: true });
    const HUGE = 4_100_000;
    const huge = path.join(folder, 'huge.dxf');
    await writeManyLines(huge, HUGE);
    const before = performance.now();
    const { stdout: seen, stderr: told } = pontrel('inspect', huge);
    const counted = JSON.parse(seen).sources[0].layers.reduce((n, l) => n + l.count, 0);
    if (counted !== HUGE) throw new Error(`Only ${counted} of ${HUGE} lines were read.`);
    console.log(
      `A drawing of ${(statSync(huge).size / 1e6).toFixed(0)} MB with ${HUGE} objects: inspected in ${((performance.now() - before) / 1000).toFixed(1)} s, at most ${peakMB(told).toFixed(0)} MB of memory\n`,
    );
    rmSync(huge);
  }
  if (isAsked('revisions')) {
    const PARCELS = 300_000;
    const [old, next] = ['old', 'new'].map((name) => path.join(folder, name));
    run(PYTHON, ['bench/reference_compare.py', 'make', old, next, String(PARCELS)]);
    const theirs = JSON.parse(run(PYTHON, ['bench/reference_compare.py', 'compare', old, next]).stdout);
    console.log(`Two revisions of ${PARCELS} parcels compared`);
    for (const [how, ...more] of [['by a key', '--key', 'LOT'], ['by where they lie']]) {
      const start = performance.now();
      const { stdout, stderr } = pontrel('compare', `${old}.shp`, `${next}.shp`, '--from', 'EPSG:2193', ...more);
      const seconds = (performance.now() - start) / 1000;
      const counted = JSON.parse(stdout);
      for (const fate of ['added', 'removed', 'moved', 'changed', 'same'])
        if (counted[fate] !== theirs[fate]) throw new Error(`${counted[fate]} ${fate}, and ${theirs[fate]} by pyshp.`);
      console.log(
        `  Pontrel, ${how}: ${seconds.toFixed(1)} s, at most ${peakMB(stderr).toFixed(0)} MB of memory; ratio ${(theirs.seconds / seconds).toFixed(1)} to pyshp in memory by the key`,
      );
    }
    console.log('');
  }
  if (isAsked('areas')) {
    const LINES = 300_000;
    const sides = path.join(folder, 'sides');
    const { lines, lots } = JSON.parse(run(PYTHON, ['bench/reference_polygonize.py', 'make', sides, String(LINES)]).stdout);
    const theirs = JSON.parse(run(PYTHON, ['bench/reference_polygonize.py', 'polygonize', sides]).stdout);
    const start = performance.now();
    const { stdout, stderr } = pontrel(
      ...['derive', 'polygonize', `${sides}.shp`, path.join(folder, 'lots.gpkg'), '--from', 'EPSG:2193', '--set', 'tolerance=0.02'],
    );
    const seconds = (performance.now() - start) / 1000;
    const { proof, derived } = JSON.parse(stdout);
    if (proof.status !== 'match' || derived.areas !== lots) throw new Error(`${derived.areas} of ${lots} lots were made.`);
    console.log(`${lines} lines to ${lots} areas, ends up to 11 mm apart`);
    console.log(`  Pontrel, made, written and proved   ${seconds.toFixed(1)} s, at most ${peakMB(stderr).toFixed(0)} MB of memory`);
    console.log(`  pyshp + shapely, made in memory     ${theirs.seconds.toFixed(1)} s (${theirs.areas} areas)`);
    console.log(`  ratio ${(theirs.seconds / seconds).toFixed(1)}\n`);
  }
  if (isAsked('surface')) {
    const POINTS = 1_000_000;
    const levels = path.join(folder, 'levels.csv');
    run(PYTHON, ['bench/reference_triangulate.py', 'make', levels, String(POINTS)]);
    const theirs = JSON.parse(run(PYTHON, ['bench/reference_triangulate.py', 'triangulate', levels]).stdout);
    const built = path.join(root, 'dist', 'bench-triangulation.mjs');
    await esbuild.build({ ...nodeOptions, entryPoints: ['bench/triangulation.ts'], outfile: built, sourcemap: false });
    const { triangulationOf } = await import(pathToFileURL(built));
    const ours = triangulationOf(levels);
    rmSync(built, { force: true });
    const start = performance.now();
    const { stdout, stderr } = pontrel('derive', 'surface', levels, path.join(folder, 'ground.gpkg'), '--from', 'EPSG:2193');
    const seconds = (performance.now() - start) / 1000;
    const { proof, derived } = JSON.parse(stdout);
    if (proof.status !== 'match') throw new Error('The surface was not proved; its speed means nothing.');
    console.log(`${POINTS} points to ${derived.triangles} triangles`);
    console.log(`  Pontrel, triangulated in memory     ${ours.seconds.toFixed(1)} s (${ours.triangles} triangles)`);
    console.log(`  shapely, triangulated in memory     ${theirs.seconds.toFixed(1)} s (${theirs.triangles} triangles)`);
    console.log(`  ratio ${(theirs.seconds / ours.seconds).toFixed(1)}`);
    console.log(`  Pontrel, read, made, written, proved ${seconds.toFixed(1)} s, at most ${peakMB(stderr).toFixed(0)} MB of memory\n`);
  }
  if (isAsked('pictures')) {
    const { affineSpeed, writePicture } = await import('../bench/pictures.mjs');
    const warping = path.join(root, 'dist', 'bench-pictures.mjs');
    await esbuild.build({
      ...nodeOptions,
      entryPoints: ['bench/pictures.ts'],
      outfile: warping,
      sourcemap: false,
    });
    const { ourWarp } = await import(pathToFileURL(warping));
    for (const side of [6000, 20_000]) {
      const picture = path.join(folder, 'picture.tif');
      await writePicture(picture, side);
      const start = performance.now();
      const { stdout, stderr } = pontrel('convert', picture, path.join(folder, 'warped.tif'), '--from', 'EPSG:2193', '--to', 'EPSG:2126');
      const took = (performance.now() - start) / 1000;
      const { proof } = JSON.parse(stdout);
      if (proof.status !== 'match') throw new Error('The picture was not proved; its speed means nothing.');
      const affine = await affineSpeed(picture, path.join(folder, 'affine.tif'), side);
      const own = side ** 2 / 1e6 / took;
      console.log(
        `A picture of ${side} by ${side} pixels in three bands from EPSG:2193 into EPSG:2126, bilinear, written with overviews and proved: ` +
          `${took.toFixed(0)} s, ${own.toFixed(1)} megapixels a second, at most ${peakMB(stderr).toFixed(0)} MB of memory`,
      );
      const alone = await ourWarp(picture, 'EPSG:2193', 'EPSG:2126');
      const written = side ** 2 / 1e6 / alone.writing;
      console.log(
        `  sharp's affine, written and not proved: ${affine.toFixed(1)} megapixels a second; ` +
          `Pontrel's ${written.toFixed(1)} until it is written, ratio ${(written / affine).toFixed(2)}; with its proof, ratio ${(own / affine).toFixed(2)}\n`,
      );
      for (const name of ['picture.tif', 'warped.tif', 'affine.tif']) rmSync(path.join(folder, name), { force: true });
    }

    rmSync(warping, { force: true });
  }
  if (isAsked('projection')) {
    const built = path.join(folder, 'projection.mjs');
    await esbuild.build({
      ...nodeOptions,
      entryPoints: ['bench/projection.ts'],
      outfile: built,
      sourcemap: false,
    });
    const { projectionSpeed, registerGrids } = await import(pathToFileURL(built));
    registerGrids(`${root}packages/core/grids`);
    const POINTS = 1_000_000;
    for (const [name, from, to, box] of [
      ['transverse Mercator (EPSG:2193)', 'EPSG:4167', 'EPSG:2193', [168, -46, 178, -35]],
      ['a seven-parameter change of datum (EPSG:4277 to EPSG:4326)', 'EPSG:4277', 'EPSG:4326', [-6, 50, 1, 58]],
      ['a grid of shifts, NTv2 (EPSG:4272 to EPSG:4167)', 'EPSG:4272', 'EPSG:4167', [168, -46, 178, -35]],
    ]) {
      const mine = projectionSpeed(from, to, box, POINTS);
      const proj = JSON.parse(run(PYTHON, ['bench/reference_projection.py', from, to, ...box.map(String), String(POINTS)]).stdout);
      console.log(`${name}, points a second, one thread each`);
      for (const way of ['forward', 'inverse'])
        console.log(
          `  ${way}  Pontrel ${(mine[way] / 1e6).toFixed(2)} M, pyproj ${(proj[way] / 1e6).toFixed(2)} M, ratio ${(mine[way] / proj[way]).toFixed(1)}`,
        );
    }
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
