import { FILLS } from '@pontrel/core/operations/fills';
import { Choice } from '../components/parts';
import { Rule } from './Rule';
import type { ShapedLayer } from './shaped-layers';
import { useShaping } from './shaping';

const hasFills = ({ layer }: Pick<ShapedLayer, 'layer'>): boolean =>
  layer.profile.groups.some((g) => FILLS.has(g.entity) && g.kind === 'polygon');

/** Whether fills cross as areas, as outlines or as both. */
export function FillRules() {
  const { chosen, edit } = useShaping();
  const having = chosen.filter(hasFills);
  if (having.length === 0) return null;
  const ways = new Set(having.map((l) => l.rule.fills ?? 'area'));
  return (
    <Rule title="Fills" of={['fills']}>
      <Choice
        small
        label="What becomes of fills"
        value={ways.size === 1 ? [...ways][0]! : null}
        options={[
          { value: 'area', label: 'Areas' },
          { value: 'outline', label: 'Outlines' },
          { value: 'both', label: 'Both' },
        ]}
        onChange={(fills) =>
          edit(
            `fills as ${fills}`,
            (r) => {
              if (fills === 'area') delete r.fills;
              else r.fills = fills;
            },
            hasFills,
          )
        }
      />
    </Rule>
  );
}
