// Makes the packed coordinate system registry that ships with the core from the PROJ database of Debian's proj-data.
// Run by hand (npm run registry) when that database is renewed; the result is committed. Each table is one text: a line a
// row, columns parted by "|", so that the core can hold it as it is and take a row apart only when it is asked for.
import { writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';

const db = new Database(process.argv[2] ?? '/usr/share/proj/proj.db', { readonly: true });
const out = new URL('../../packages/core/src/crs/registry/registry.json', import.meta.url);

const all = (sql, ...values) => db.prepare(sql).all(...values);
const num = (v) => String(Number(Number(v).toPrecision(15)));
const line = (...columns) => {
  const texts = columns.map((c) => String(c ?? ''));
  const bad = texts.find((t) => /[|\n]/.test(t));
  if (bad) throw new Error(`a column holds a separator: ${bad}`);
  return texts.join('|').replace(/\|+$/, '');
};

const units = new Map(all(`SELECT auth_name||':'||code AS id, name, conv_factor AS f FROM unit_of_measure`).map((u) => [u.id, u]));
/** Degrees from an angle of the database; sexagesimal DDD.MMSSsss is EPSG unit 9110. */
function degrees(value, uom) {
  if (uom === 'EPSG:9110') {
    const sign = value < 0 ? -1 : 1;
    const [d, rest] = Math.abs(value).toFixed(10).split('.');
    return sign * (Number(d) + Number(rest.slice(0, 2)) / 60 + Number(`${rest.slice(2, 4)}.${rest.slice(4)}`) / 3600);
  }
  const { f } = units.get(uom);
  if (f === null && value !== 0) throw new Error(`no factor for ${uom}`);
  return Math.abs(f - Math.PI / 180) < 1e-12 ? value : (value * f * 180) / Math.PI;
}
/** The factor to metres, degrees, ratios or years of a unit, with the figures that the unit's own definition has. */
const degreesOf = (uom) => Number(((units.get(uom).f * 180) / Math.PI).toPrecision(12));

// Areas of use: those that anything refers to, each once. Of several usages the first is taken in the order in which PROJ
// sorts them (large-scale scopes first).
const usages = new Map();
for (const u of all(`SELECT u.object_table_name||':'||u.object_auth_name||':'||u.object_code AS id, e.name, e.description, e.west_lon w, e.south_lat s, e.east_lon e, e.north_lat n
    FROM usage u JOIN extent e ON e.auth_name = u.extent_auth_name AND e.code = u.extent_code JOIN scope s ON s.auth_name = u.scope_auth_name AND s.code = u.scope_code
    ORDER BY CASE WHEN s.scope LIKE '%large scale%' THEN 0 ELSE 1 END, u.auth_name, u.code`))
  if (!usages.has(u.id)) usages.set(u.id, u);
const extents = new Map();
function area(table, code, authority = 'EPSG') {
  const a = usages.get(`${table}:${authority}:${code}`);
  if (!a || a.w === null) return '';
  // PROJ takes an area for the sea alone where its description says so in this very way
  const text = line(a.name, a.w, a.s, a.e, a.n, a.description.includes('- offshore') ? 'sea' : '');
  if (!extents.has(text)) extents.set(text, extents.size);
  return extents.get(text).toString(36);
}

const ellipsoids = all(
  `SELECT code, name, semi_major_axis a, inv_flattening invf, semi_minor_axis b, uom_auth_name||':'||uom_code AS unit FROM ellipsoid WHERE auth_name = 'EPSG'`,
).map((e) => line(e.code, e.name, num(e.a * units.get(e.unit).f), num(e.invf ?? (e.b && e.b !== e.a ? e.a / (e.a - e.b) : 0))));
const meridians = all(
  `SELECT code, name, longitude, uom_auth_name||':'||uom_code AS unit FROM prime_meridian WHERE auth_name = 'EPSG'`,
).map((m) => line(m.code, m.name, num(degrees(m.longitude, m.unit))));
const datumAliases = new Map();
for (const a of all(
  `SELECT code, alt_name FROM alias_name WHERE table_name = 'geodetic_datum' AND auth_name = 'EPSG' ORDER BY source = 'EPSG', rowid`,
)) {
  const list = datumAliases.get(String(a.code)) ?? [];
  if (!list.includes(a.alt_name)) list.push(a.alt_name);
  datumAliases.set(String(a.code), list);
}
const datums =
  all(`SELECT code, name, ellipsoid_code e, prime_meridian_code pm, publication_date date, frame_reference_epoch epoch, ensemble_accuracy ens, deprecated
    FROM geodetic_datum WHERE auth_name = 'EPSG'`).map((d) =>
    line(d.code, d.name, d.e, d.pm, (d.date ?? '').slice(0, 10), d.epoch, d.ens, (datumAliases.get(String(d.code)) ?? []).join(';')),
  );

const ensembles =
  all(`SELECT m.ensemble_code code, d.name FROM geodetic_datum_ensemble_member m JOIN geodetic_datum d ON d.auth_name = m.member_auth_name AND d.code = m.member_code
    WHERE m.ensemble_auth_name = 'EPSG' ORDER BY m.ensemble_code, m.sequence`).reduce(
    (m, r) => m.set(r.code, [...(m.get(r.code) ?? []), r.name]),
    new Map(),
  );
const TYPES = { 'geographic 2D': '2', 'geographic 3D': '3', geocentric: 'c' };
const geodetic =
  all(`SELECT g.code, g.name, g.type, g.datum_code datum, g.deprecated, a.uom_auth_name||':'||a.uom_code AS unit, a.orientation first
    FROM geodetic_crs g JOIN axis a ON a.coordinate_system_auth_name = g.coordinate_system_auth_name
      AND a.coordinate_system_code = g.coordinate_system_code AND a.coordinate_system_order = 1
    WHERE g.auth_name = 'EPSG' AND g.datum_auth_name = 'EPSG' ORDER BY g.type, CAST(g.code AS INT)`).map((g) =>
    line(
      g.code,
      g.name,
      TYPES[g.type],
      g.datum,
      g.type === 'geocentric' ? '' : degreesOf(g.unit),
      area('geodetic_crs', g.code),
      g.deprecated || '',
      g.first === 'east' ? 'e' : '',
    ),
  );

const methodParameters = new Map();
// Conversions, with their values in metres, degrees and ratios in the order of the method's parameters.
const ANGLES = new Set([
  8801, 8802, 8811, 8812, 8813, 8814, 8818, 8821, 8822, 8823, 8824, 8828, 8829, 8830, 8831, 8832, 8833, 8834, 8835, 1036,
]);
const conversions =
  all(`SELECT c.*, m.name AS method FROM conversion_table c JOIN conversion_method m ON m.auth_name = c.method_auth_name AND m.code = c.method_code
    WHERE c.auth_name = 'EPSG' AND EXISTS (SELECT 1 FROM projected_crs p WHERE p.conversion_auth_name = 'EPSG' AND p.conversion_code = c.code)`).map(
    (c) => {
      const values = [];
      const codes = [];
      for (let i = 1; i <= 7; i++) {
        const code = c[`param${i}_code`];
        if (code === null) continue;
        const unit = `${c[`param${i}_uom_auth_name`]}:${c[`param${i}_uom_code`]}`;
        const value = c[`param${i}_value`];
        values.push(num(ANGLES.has(Number(code)) ? degrees(value, unit) : value * units.get(unit).f));
        codes.push(code);
      }
      methodParameters.set(c.method_code, line(c.method_code, c.method, codes.join(' ')));
      return line(c.code, c.method_code, values.join(' '));
    },
  );

// Axes of projected systems: "<abbreviation> <direction>" twice in the registered order, then the unit.
const systems = new Map();
for (const a of all(`SELECT coordinate_system_code cs, name, abbrev, orientation o, uom_auth_name||':'||uom_code AS unit FROM axis
    WHERE coordinate_system_auth_name = 'EPSG' AND coordinate_system_order <= 2 ORDER BY coordinate_system_code, coordinate_system_order`)) {
  const list = systems.get(a.cs) ?? [];
  list.push(a);
  systems.set(a.cs, list);
}
const projectedRows =
  all(`SELECT code, name, geodetic_crs_code base, conversion_code conv, coordinate_system_code cs, deprecated FROM projected_crs
    WHERE auth_name = 'EPSG' AND conversion_auth_name = 'EPSG' AND geodetic_crs_auth_name = 'EPSG' ORDER BY CAST(code AS INT)`);
const usedSystems = new Set(projectedRows.map((p) => p.cs));
const axes = [...systems]
  .filter(([cs]) => usedSystems.has(cs))
  .map(([cs, [a, b]]) => {
    const unit = units.get(a.unit);
    return line(cs, `${a.abbrev} ${a.o}`, `${b.abbrev} ${b.o}`, unit.name, num(unit.f));
  });
const projected = projectedRows.map((p) => line(p.code, p.name, p.base, p.conv, p.cs, area('projected_crs', p.code), p.deprecated || ''));

const verticalDatums = new Map(all(`SELECT code, name FROM vertical_datum WHERE auth_name = 'EPSG'`).map((d) => [d.code, d.name]));
const vertical =
  all(`SELECT v.code, v.name, v.datum_code d, v.deprecated, a.orientation o, a.uom_auth_name||':'||a.uom_code AS unit FROM vertical_crs v JOIN axis a
    ON a.coordinate_system_auth_name = v.coordinate_system_auth_name AND a.coordinate_system_code = v.coordinate_system_code WHERE v.auth_name = 'EPSG' ORDER BY CAST(v.code AS INT)`).map(
    (v) =>
      line(
        v.code,
        v.name,
        v.d,
        verticalDatums.get(v.d),
        v.o,
        units.get(v.unit).name,
        num(units.get(v.unit).f),
        area('vertical_crs', v.code),
        v.deprecated || '',
      ),
  );
const compound = all(`SELECT code, name, horiz_crs_code h, vertical_crs_code v, deprecated FROM compound_crs
    WHERE auth_name = 'EPSG' AND horiz_crs_auth_name = 'EPSG' AND vertical_crs_auth_name = 'EPSG' ORDER BY CAST(code AS INT)`).map((c) =>
  line(c.code, c.name, c.h, c.v, area('compound_crs', c.code), c.deprecated || ''),
);

// Changes of datum. Operations that are deprecated are left out, as PROJ leaves them out. Those of the PROJ authority that
// state that members of an ensemble are the same are kept, since they take part in the choice.
const superseded = new Map();
for (const s of all(`SELECT superseded_table_name t, superseded_code code, replacement_code by_code FROM supersession
    WHERE superseded_auth_name = 'EPSG' AND replacement_auth_name = 'EPSG' AND same_source_target_crs = 1 AND superseded_table_name = replacement_table_name`)) {
  const key = `${s.t}:${s.code}`;
  superseded.set(key, [...(superseded.get(key) ?? []), s.by_code]);
}
const by = (table, code) => (superseded.get(`${table}:${code}`) ?? []).join(' ');
const geodeticCodes = new Set(geodetic.map((g) => g.split('|')[0]));
const idOf = (authority, code) => (authority === 'EPSG' ? String(code) : `${authority}:${code}`);
const short = (v) => String(Number(v.toPrecision(12)));

const helmert = all(`SELECT * FROM helmert_transformation_table WHERE deprecated = 0 AND auth_name IN ('EPSG', 'PROJ')
    AND source_crs_auth_name = 'EPSG' AND target_crs_auth_name = 'EPSG'`)
  .filter((h) => geodeticCodes.has(String(h.source_crs_code)) && geodeticCodes.has(String(h.target_crs_code)))
  .map((h) => {
    const f = (column, per) =>
      h[`${column}_uom_code`] === null ? 0 : units.get(`${h[`${column}_uom_auth_name`]}:${h[`${column}_uom_code`]}`).f * per;
    const seconds = (180 * 3600) / Math.PI;
    const year = units.get('EPSG:1029').f;
    const t = f('translation', 1),
      r = f('rotation', seconds),
      s = f('scale_difference', 1e6);
    const values = [h.tx * t, h.ty * t, h.tz * t, (h.rx ?? 0) * r, (h.ry ?? 0) * r, (h.rz ?? 0) * r, (h.scale_difference ?? 0) * s];
    if (h.epoch !== null) {
      const rt = f('rate_translation', year),
        rr = f('rate_rotation', seconds * year),
        rs = f('rate_scale_difference', 1e6 * year);
      values.push(
        (h.rate_tx ?? 0) * rt,
        (h.rate_ty ?? 0) * rt,
        (h.rate_tz ?? 0) * rt,
        (h.rate_rx ?? 0) * rr,
        (h.rate_ry ?? 0) * rr,
        (h.rate_rz ?? 0) * rr,
        (h.rate_scale_difference ?? 0) * rs,
        h.epoch,
      );
    } else if (h.px !== null) values.push(h.px, h.py, h.pz);
    return line(
      idOf(h.auth_name, h.code),
      h.name,
      h.method_code,
      h.source_crs_code,
      h.target_crs_code,
      h.accuracy,
      area('helmert_transformation', h.code, h.auth_name),
      values.map(short).join(' '),
      by('helmert_transformation', h.code),
    );
  });
const others = all(`SELECT * FROM other_transformation WHERE deprecated = 0 AND auth_name IN ('EPSG', 'PROJ') AND method_auth_name = 'EPSG'
    AND source_crs_auth_name = 'EPSG' AND target_crs_auth_name = 'EPSG' AND method_code IN (9618, 9619, 9601, 9616, 1046)`).map((o) => {
  const values = [];
  for (let i = 1; i <= 7; i++) {
    const code = o[`param${i}_code`];
    if (code === null) continue;
    const unit = `${o[`param${i}_uom_auth_name`]}:${o[`param${i}_uom_code`]}`;
    // offsets of latitude, longitude and slopes are angles; heights are metres
    const isAngle = [8601, 8602, 8617, 8618].includes(Number(code));
    values.push(`${code}=${num(isAngle ? degrees(o[`param${i}_value`], unit) : o[`param${i}_value`] * units.get(unit).f)}`);
  }
  return line(
    idOf(o.auth_name, o.code),
    o.name,
    o.method_code,
    o.source_crs_code,
    o.target_crs_code,
    o.accuracy,
    area('other_transformation', o.code, o.auth_name),
    values.join(' '),
    by('other_transformation', o.code),
  );
});
const grids = all(
  `SELECT * FROM grid_transformation WHERE deprecated = 0 AND auth_name IN ('EPSG', 'PROJ') AND source_crs_auth_name = 'EPSG' AND target_crs_auth_name = 'EPSG'`,
).map((g) =>
  line(
    idOf(g.auth_name, g.code),
    g.name,
    g.method_code,
    g.source_crs_code,
    g.target_crs_code,
    g.accuracy,
    area('grid_transformation', g.code, g.auth_name),
    [g.grid_name, g.grid2_name].filter(Boolean).join(';'),
    by('grid_transformation', g.code),
  ),
);
const operations = [...helmert, ...others, ...grids];
const operationCodes = new Set(operations.map((o) => o.split('|')[0]));
const concatenated = all(
  `SELECT * FROM concatenated_operation WHERE deprecated = 0 AND auth_name = 'EPSG' AND source_crs_auth_name = 'EPSG' AND target_crs_auth_name = 'EPSG'`,
)
  .map((c) => {
    const steps = all(
      `SELECT step_auth_name a, step_code code FROM concatenated_operation_step WHERE operation_auth_name = 'EPSG' AND operation_code = ? ORDER BY step_number`,
      c.code,
    );
    if (!steps.every((s) => operationCodes.has(idOf(s.a, s.code)))) return null;
    return line(
      c.code,
      c.name,
      c.source_crs_code,
      c.target_crs_code,
      c.accuracy,
      area('concatenated_operation', c.code),
      steps.map((s) => idOf(s.a, s.code)).join(' '),
      by('concatenated_operation', c.code),
    );
  })
  .filter((c) => c !== null);
// Files that hold the same grid under the names of later packagings; "-" where those lead the other way.
const gridNames = all(
  `SELECT original_grid_name o, proj_grid_name p, old_proj_grid_name old, inverse_direction inv FROM grid_alternatives`,
).map((g) => line(g.o, g.p, g.old, g.inv ? '-' : ''));
const methodNames = all(`SELECT code, name FROM coordinate_operation_method WHERE auth_name = 'EPSG'
    AND code IN (SELECT method_code FROM helmert_transformation_table UNION SELECT method_code FROM other_transformation UNION SELECT method_code FROM grid_transformation)`).map(
  (m) => line(m.code, m.name),
);

// Other names. Those of the .prj dialect (the database's second source) are written as "=name"; "~" stands for what the
// system's own name has before its first " / ".
const names = new Map(projectedRows.map((p) => [p.code, p.name]));
const aliases = new Map();
for (const a of all(`SELECT code, alt_name name, source FROM alias_name WHERE auth_name = 'EPSG' AND table_name IN ('projected_crs', 'geodetic_crs', 'vertical_crs', 'compound_crs')
    ORDER BY CAST(code AS INT), source = 'EPSG'`)) {
  const list = aliases.get(a.code) ?? [];
  const own = names.get(a.code)?.split(' / ')[0];
  const name = own && a.name.startsWith(`${own} / `) ? `~${a.name.slice(own.length + 3)}` : a.name;
  list.push(a.source === 'EPSG' ? name : `=${a.name}`);
  aliases.set(a.code, list);
}
const replacements = new Map();
for (const d of all(`SELECT deprecated_code code, replacement_code r FROM deprecation WHERE deprecated_auth_name = 'EPSG' AND replacement_auth_name = 'EPSG'
    AND table_name IN ('projected_crs', 'geodetic_crs', 'vertical_crs', 'compound_crs')`)) {
  replacements.set(d.code, [...(replacements.get(d.code) ?? []), d.r]);
}

const tables = {
  version: db.prepare(`SELECT value FROM metadata WHERE key = 'EPSG.VERSION'`).pluck().get(),
  extents: [...extents.keys()],
  ellipsoids,
  meridians,
  datums,
  ensembles: [...ensembles].map(([code, names]) => line(code, names.join(';'))),
  geodetic,
  methodParameters: [...methodParameters.values()],
  conversions,
  axes,
  projected,
  vertical,
  compound,
  operations,
  concatenated,
  gridNames,
  methodNames,
  aliases: [...aliases].map(([code, names]) => line(code, names.join(';'))),
  replacements: [...replacements].map(([code, list]) => line(code, list.join(' '))),
};
const packed = Object.fromEntries(Object.entries(tables).map(([k, v]) => [k, Array.isArray(v) ? v.join('\n') : v]));
writeFileSync(out, JSON.stringify(packed, null, 2) + '\n');
for (const [k, v] of Object.entries(tables))
  if (Array.isArray(v)) console.log(k.padEnd(14), String(v.length).padStart(6), String(packed[k].length).padStart(9));
console.log(`EPSG ${tables.version}`);
