/** Mappings made of the schemas of the OGC by others: types with their members in the order of the schema. */
declare module 'ogc-schemas' {
  interface Property {
    n: string;
    en?: string | { lp: string; ns?: string };
    ti?: unknown;
    t?: 'a' | 'v' | 'e' | 'er' | 'ers' | 'es' | 'ae';
    col?: true;
    rq?: true;
    etis?: { en: string | { lp: string } }[];
  }
  interface Type {
    ln: string;
    bti?: string;
    ps?: Property[];
  }
  interface Element {
    en: string | { lp: string };
    ti?: unknown;
    sh?: string | { lp: string };
  }
  interface Mapping {
    n: string;
    dens?: string;
    tis: Type[];
    eis: Element[];
  }
  const schemas: Record<string, Mapping>;
  export default schemas;
}
