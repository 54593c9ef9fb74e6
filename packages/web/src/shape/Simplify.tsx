import { deviation, grouped, plural } from '../components/numbers';
import { Mono } from '../components/parts';
import { TypedLength } from '../components/Typed';
import { Rule } from './Rule';
import type { ShapedLayer } from './shaped-layers';
import { useShaping } from './shaping';

const hasLines = ({ layer }: Pick<ShapedLayer, 'layer'>): boolean =>
  layer.profile.groups.some((g) => g.kind === 'line' || g.kind === 'polygon');

/** How far lines may move when vertices are left out. */
export function Simplify() {
  const { name, chosen, rule, report, edit } = useShaping();
  if (!chosen.some(hasLines)) return null;
  return (
    <Rule
      title="Simplify"
      of={['simplify_m']}
      aside="lines move at most"
      control={
        <TypedLength
          label={`Tolerance for simplifying ${name}`}
          metres={rule.simplify_m ?? null}
          bare="mm"
          width="76px"
          hint="0"
          onChange={(m) =>
            edit(
              `simplifying ${name}`,
              (r) => {
                if (m === null) delete r.simplify_m;
                else r.simplify_m = m;
              },
              hasLines,
            )
          }
        />
      }
    >
      {report?.simplify_m && (
        <Mono display="block">
          {grouped(report.simplify_m.before)} → {plural(report.simplify_m.after, 'vertex', 'vertices')},{' '}
          {report.simplify_m.shift_m === 0 ? 'nothing moved' : `at most ${deviation(report.simplify_m.shift_m)} off`}
        </Mono>
      )}
    </Rule>
  );
}
