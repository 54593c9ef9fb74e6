import type { ByteSource } from '../../io/bytes';
import type { FieldType } from '../../model/field';
import { Problem } from '../../model/problem';
import type { TargetSet } from '../format';
import { childOf, childrenOf, escaped, readXml, withoutPrefix, type XmlNode } from '../../io/xml';

/** The namespace of what is written here. */
export const NAMESPACE = 'urn:pontrel:gml';

/** Types of XML Schema, and what they are here. Source: XML Schema Part 2, section 3. */
const TYPES: Record<string, FieldType> = {
  string: 'text',
  normalizedString: 'text',
  token: 'text',
  anyURI: 'text',
  dateTime: 'datetime',
  time: 'time',
  base64Binary: 'bytes',
  date: 'date',
  boolean: 'boolean',
  double: 'decimal',
  float: 'decimal',
  decimal: 'decimal',
  MeasureType: 'decimal',
  LengthType: 'decimal',
  integer: 'integer',
  int: 'integer',
  long: 'integer',
  short: 'integer',
  byte: 'integer',
  nonNegativeInteger: 'integer',
  positiveInteger: 'integer',
  unsignedInt: 'integer',
  unsignedLong: 'integer',
  unsignedShort: 'integer',
  unsignedByte: 'integer',
};

/** Types of fields, by the element of a feature and that of the field. */
export type GmlTypes = ReadonlyMap<string, ReadonlyMap<string, FieldType>>;

/** Larger schemas are no help here. */
const MOST_BYTES = 1 << 22;

/** What a schema beside a file says of its features; nothing where there is none that can be read. */
export async function typesBeside(source: ByteSource): Promise<GmlTypes> {
  const beside = await source.sibling('.xsd');
  const types = new Map<string, Map<string, FieldType>>();
  if (!beside || beside.size > MOST_BYTES) return types;
  let schema: XmlNode;
  try {
    schema = readXml(beside.name, await beside.read(0, beside.size));
  } catch (error) {
    if (error instanceof Problem) return types;
    throw error;
  }
  const fields = new Map(childrenOf(schema, 'complexType').map((c) => [c.attributes.name ?? '', fieldsOf(c)]));
  for (const element of childrenOf(schema, 'element')) {
    const own = childOf(element, 'complexType');
    const known = own ? fieldsOf(own) : fields.get(withoutPrefix(element.attributes.type ?? ''));
    if (known && element.attributes.name !== undefined) types.set(element.attributes.name, known);
  }
  return types;
}

function fieldsOf(node: XmlNode): Map<string, FieldType> {
  const out = new Map<string, FieldType>();
  const walk = (at: XmlNode): void => {
    for (const child of at.children) {
      if (child.name !== 'element') walk(child);
      else {
        const base = child.attributes.type ?? childOf(childOf(child, 'simpleType'), 'restriction')?.attributes.base;
        const type = base === undefined ? undefined : TYPES[withoutPrefix(base)];
        if (type && child.attributes.name !== undefined) out.set(child.attributes.name, type);
      }
    }
  };
  walk(node);
  return out;
}

const XS: Record<FieldType, string> = {
  text: 'string',
  integer: 'long',
  decimal: 'double',
  boolean: 'boolean',
  date: 'date',
  time: 'time',
  datetime: 'dateTime',
  bytes: 'base64Binary',
};

/** The type of the geometry of a set. Source: OGC 10-100r3, clause 8.4.4 (the property types that the profile allows). */
function propertyType({ kind, several }: TargetSet): string {
  const one: Record<string, string> = { point: 'Point', text: 'Point', line: 'Curve', polygon: 'Surface' };
  return `gml:${several ? 'Multi' : ''}${one[kind]}PropertyType`;
}

/** The element of the geometry, and that around the features. */
export const GEOMETRY = 'geom',
  COLLECTION = 'Features',
  MEMBER = 'member';

/** The application schema of a set. Source: OGC 10-100r3 (simple features profile, level 0), clause 8; OGC 07-036 for GML 3.2. */
export function schemaText(set: TargetSet): string {
  const element = (name: string, type: string): string => `<xs:element name="${escaped(name)}" type="${type}" minOccurs="0"/>`;
  return `<?xml version="1.0" encoding="UTF-8"?>
<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:gml="http://www.opengis.net/gml/3.2" xmlns:gmlsf="http://www.opengis.net/gmlsf/2.0" xmlns:p="${NAMESPACE}" targetNamespace="${NAMESPACE}" elementFormDefault="qualified" version="1.0">
<xs:annotation><xs:appinfo source="http://schemas.opengis.net/gmlsfProfile/2.0/gmlsfLevels.xsd"><gmlsf:ComplianceLevel>0</gmlsf:ComplianceLevel></xs:appinfo></xs:annotation>
<xs:import namespace="http://www.opengis.net/gml/3.2" schemaLocation="http://schemas.opengis.net/gml/3.2.1/gml.xsd"/>
<xs:element name="${COLLECTION}" type="p:${COLLECTION}Type" substitutionGroup="gml:AbstractFeature"/>
<xs:complexType name="${COLLECTION}Type"><xs:complexContent><xs:extension base="gml:AbstractFeatureType"><xs:sequence minOccurs="0" maxOccurs="unbounded"><xs:element name="${MEMBER}"><xs:complexType><xs:complexContent><xs:extension base="gml:AbstractFeatureMemberType"><xs:sequence><xs:element ref="gml:AbstractFeature"/></xs:sequence></xs:extension></xs:complexContent></xs:complexType></xs:element></xs:sequence></xs:extension></xs:complexContent></xs:complexType>
<xs:element name="${escaped(set.name)}" type="p:${escaped(set.name)}Type" substitutionGroup="gml:AbstractFeature"/>
<xs:complexType name="${escaped(set.name)}Type"><xs:complexContent><xs:extension base="gml:AbstractFeatureType"><xs:sequence>
${[...(set.kind === 'none' ? [] : [element(GEOMETRY, propertyType(set))]), ...set.fields.map((f) => element(f.to, `xs:${XS[f.type]}`))].join('\n')}
</xs:sequence></xs:extension></xs:complexContent></xs:complexType>
</xs:schema>
`;
}
