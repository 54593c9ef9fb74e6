// Makes the packed coordinate system registry that ships with the core from the PROJ database of Debian's proj-data.
// Run by hand (npm run registry) when that database is renewed; the result is committed.
import { writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';

const db = new Database(process.argv[2] ?? '/usr/share/proj/proj.db', { readonly: true });
const METHODS = [9807, 1024];
const out = new URL('../../packages/core/src/crs/registry/registry.json', import.meta.url);

const num = (v) => String(Number(Number(v).toPrecision(15)));
const units = new Map(db.prepare(`SELECT auth_name||':'||code AS id, name, conv_factor AS f FROM unit_of_measure`).all().map((u) => [u.id, u]));
const areas = new Map(
  db.prepare(`SELECT u.object_table_name||':'||u.object_code AS id, e.name, e.west_lon w, e.south_lat s, e.east_lon e, e.north_lat n
    FROM usage u JOIN extent e ON e.auth_name = u.extent_auth_name AND e.code = u.extent_code WHERE u.object_auth_name = 'EPSG'`)
    .all().map((a) => [a.id, a]),
);
const area = (table, code) => {
  const a = areas.get(`${table}:${code}`);
  return a ? [a.name, a.w, a.s, a.e, a.n] : ['', '', '', '', ''];
};
/** Degrees from an angle of the database; sexagesimal DDD.MMSSsss is EPSG unit 9110. */
function degrees(value, uom) {
  if (uom === 'EPSG:9110') {
    const sign = value < 0 ? -1 : 1;
    const text = Math.abs(value).toFixed(10);
    const [d, rest] = text.split('.');
    return sign * (Number(d) + Number(rest.slice(0, 2)) / 60 + Number(`${rest.slice(2, 4)}.${rest.slice(4)}`) / 3600);
  }
  const f = units.get(uom).f;
  return Math.abs(f - Math.PI / 180) < 1e-12 ? value : (value * f * 180) / Math.PI;
}

const datums = db.prepare(`SELECT d.code, d.name, e.name AS ell, e.semi_major_axis AS a, e.inv_flattening AS invf, e.semi_minor_axis AS b,
    e.uom_auth_name||':'||e.uom_code AS eu, pm.longitude AS pm, pm.uom_auth_name||':'||pm.uom_code AS pu
  FROM geodetic_datum d JOIN ellipsoid e ON e.auth_name = d.ellipsoid_auth_name AND e.code = d.ellipsoid_code
  JOIN prime_meridian pm ON pm.auth_name = d.prime_meridian_auth_name AND pm.code = d.prime_meridian_code
  WHERE d.auth_name = 'EPSG'`).all();
const datumRows = datums.map((d) => {
  const f = units.get(d.eu).f;
  const invF = d.invf ?? (d.b && d.b !== d.a ? d.a / (d.a - d.b) : 0);
  return [d.code, d.name, d.ell, num(d.a * f), num(invF), num(degrees(d.pm, d.pu))].join('|');
});

const geographic = db.prepare(`SELECT g.code, g.name, g.datum_code AS datum, g.deprecated, a.uom_auth_name||':'||a.uom_code AS uom
  FROM geodetic_crs g JOIN axis a ON a.coordinate_system_auth_name = g.coordinate_system_auth_name
    AND a.coordinate_system_code = g.coordinate_system_code AND a.coordinate_system_order = 1
  WHERE g.auth_name = 'EPSG' AND g.type = 'geographic 2D' AND g.datum_auth_name = 'EPSG' ORDER BY CAST(g.code AS INT)`).all();
const geographicRows = geographic.map((g) =>
  [g.code, g.name, g.datum, String(Number(((units.get(g.uom).f * 180) / Math.PI).toPrecision(12))), g.deprecated, ...area('geodetic_crs', g.code)].join('|'));

const projected = db.prepare(`SELECT p.code, p.name, p.geodetic_crs_code AS base, p.deprecated, p.coordinate_system_code AS cs, c.*
  FROM projected_crs p JOIN conversion_table c ON c.auth_name = p.conversion_auth_name AND c.code = p.conversion_code
  WHERE p.auth_name = 'EPSG' AND c.method_auth_name = 'EPSG' ORDER BY CAST(p.code AS INT)`);
const axes = db.prepare(`SELECT orientation, uom_auth_name||':'||uom_code AS uom FROM axis WHERE coordinate_system_auth_name = 'EPSG' AND coordinate_system_code = ?`);
const known = new Set(geographic.map((g) => g.code));
const projectedRows = [];
for (const raw of projected.raw().iterate()) {
  const row = Object.fromEntries(projected.columns().map((c, i) => [`${c.table ?? ''}.${c.column ?? c.name}`, raw[i]]));
  const method = Number(row['conversion_table.method_code']);
  if (!METHODS.includes(method) || !known.has(row['projected_crs.geodetic_crs_code'])) continue;
  const ax = axes.all(row['projected_crs.coordinate_system_code']);
  if (ax.length !== 2 || !ax.every((a) => a.orientation === 'east' || a.orientation === 'north')) continue;
  const unit = units.get(ax[0].uom);
  const parameters = [];
  for (let i = 1; i <= 7; i++) {
    const code = row[`conversion_table.param${i}_code`];
    if (code === null) continue;
    const value = row[`conversion_table.param${i}_value`];
    const uom = `${row[`conversion_table.param${i}_uom_auth_name`]}:${row[`conversion_table.param${i}_uom_code`]}`;
    const angle = [8801, 8802].includes(Number(code));
    parameters.push(`${code}=${num(angle ? degrees(value, uom) : value * units.get(uom).f)}`);
  }
  const code = row['projected_crs.code'];
  projectedRows.push([code, row['projected_crs.name'], row['projected_crs.geodetic_crs_code'], method, parameters.join(' '), unit.name,
    num(unit.f), row['projected_crs.deprecated'], ...area('projected_crs', code)].join('|'));
}

const helmert = db.prepare(`SELECT * FROM helmert_transformation_table WHERE auth_name = 'EPSG' AND deprecated = 0
  AND method_code IN (9603, 9606, 9607) AND source_crs_auth_name = 'EPSG' AND target_crs_auth_name = 'EPSG' ORDER BY CAST(code AS INT)`).all();
const operationRows = [];
for (const h of helmert) {
  if (!known.has(h.source_crs_code) || !known.has(h.target_crs_code)) continue;
  const t = units.get(`${h.translation_uom_auth_name}:${h.translation_uom_code}`)?.f ?? 1;
  const r = h.rotation_uom_code ? (units.get(`${h.rotation_uom_auth_name}:${h.rotation_uom_code}`).f * 180 * 3600) / Math.PI : 0;
  const s = h.scale_difference_uom_code ? units.get(`${h.scale_difference_uom_auth_name}:${h.scale_difference_uom_code}`).f * 1e6 : 0;
  const sign = Number(h.method_code) === 9607 ? -1 : 1; // coordinate frame to position vector
  const v = [h.tx * t, h.ty * t, h.tz * t, sign * (h.rx ?? 0) * r, sign * (h.ry ?? 0) * r, sign * (h.rz ?? 0) * r, (h.scale_difference ?? 0) * s];
  const a = area('helmert_transformation', h.code);
  operationRows.push([h.code, h.name, h.source_crs_code, h.target_crs_code, v.map(num).join(' '), h.accuracy ?? '', ...a].join('|'));
}

const version = db.prepare(`SELECT value FROM metadata WHERE key = 'EPSG.VERSION'`).pluck().get();
const tables = { version, datums: datumRows.join('\n'), geographic: geographicRows.join('\n'), projected: projectedRows.join('\n'), operations: operationRows.join('\n') };
writeFileSync(out, JSON.stringify(tables, null, 1) + '\n');
console.log(`EPSG ${version}: ${geographicRows.length} geographic, ${projectedRows.length} projected, ${operationRows.length} datum operations`);
