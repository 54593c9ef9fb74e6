import { Box, Flex, Text } from '@chakra-ui/react';
import type { SourceState } from '@pontrel/contract/crossing';
import { joinFields } from '@pontrel/core/content/features/profile';
import { validateRecipe } from '@pontrel/core/crossing/validate-recipe';
import { isKnownField } from '@pontrel/core/filter/evaluate';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { layerRules, sourceRules, useChange, useCrossing } from '../crossing/use-crossing';
import { Mono, Muted, Select, ToneIcon } from '../components/parts';

/** What of the rules no longer fits a source that took another one's place, and a way to match it by hand. */
export function Misfits({ source }: { source: SourceState }) {
  const { recipe, sources } = useCrossing();
  const change = useChange();
  const told = validateRecipe(
    recipe,
    sources.map((s) => ({
      name: s.name,
      layers: s.layers.map((l) => l.profile),
      ...(s === source ? { stated: { crs: s.crs, unit: s.unit } } : {}),
    })),
  ).filter((f) => f.location === source.name || f.location?.startsWith(`${source.name}: `));
  if (told.length === 0) return null;
  const rules = recipe.sources[source.name]?.layers ?? {};
  const layers = source.layers.map((l) => l.profile.name);
  const gone = Object.keys(rules).filter((name) => !layers.includes(name));
  const fieldsGone = source.layers.flatMap(({ profile }) => fieldMisfits(profile.name, rules[profile.name], namesOf(profile)));
  return (
    <Box
      role="group"
      aria-label={`What no longer fits ${source.name}`}
      position="relative"
      mt="8px"
      pt="6px"
      borderTopWidth="1px"
      borderColor="hairline"
    >
      {gone.map((layer) => (
        <Match
          key={layer}
          label={`The rules of ${layer} are for`}
          options={layers.filter((name) => saysNothing(rules[name]))}
          forget="no layer: forget them"
          onChoose={(to) =>
            change(to === null ? `forget the rules of ${layer}` : `rules of ${layer} for ${to}`, (draft) => {
              const rule = layerRules(draft, source.name, layer);
              const own = sourceRules(draft, source.name).layers;
              delete own[layer];
              if (to !== null) own[to] = rule;
            })
          }
        >
          No layer <Mono>{layer}</Mono> any more; its rules are kept.
        </Match>
      ))}
      {fieldsGone.map(({ layer, field, free }) => (
        <Match
          key={`${layer}\n${field}`}
          label={`The rule of ${field} is for`}
          options={free}
          forget="no field: forget it"
          onChoose={(to) =>
            change(to === null ? `forget the rule of ${field}` : `rule of ${field} for ${to}`, (draft) => {
              const rule = layerRules(draft, source.name, layer);
              const { [field]: moved, ...kept } = rule.fields!;
              if (to !== null) kept[to] = moved!;
              if (Object.keys(kept).length > 0) rule.fields = kept;
              else delete rule.fields;
            })
          }
        >
          In <Mono>{layer}</Mono> a rule is about a field <Mono>{field}</Mono>, which no record has.
        </Match>
      ))}
      {told
        .filter((f) => f.code !== 'recipe-layer' && f.code !== 'recipe-field-rule')
        .map((f, k) => (
          <Flex key={k} gap="7px" py="3px" align="flex-start">
            <Box pt="1px">
              <ToneIcon tone={f.severity === 'info' ? 'good' : 'caution'} size={13} />
            </Box>
            <Muted textStyle="small" minW="0" overflowWrap="anywhere">
              {f.location !== source.name && <Mono>{f.location!.slice(source.name.length + 2)} </Mono>}
              {f.message}
            </Muted>
          </Flex>
        ))}
    </Box>
  );
}

/** One misfit with what it may be matched with. */
function Match({
  label,
  options,
  forget,
  onChoose,
  children,
}: {
  label: string;
  options: readonly string[];
  forget: string;
  onChoose(to: string | null): void;
  children: React.ReactNode;
}) {
  return (
    <Flex gap="7px" py="4px" align="flex-start">
      <Box pt="1px">
        <ToneIcon tone="caution" size={13} />
      </Box>
      <Box minW="0" flex="1">
        <Text textStyle="small" mb="3px" overflowWrap="anywhere">
          {children}
        </Text>
        <Select
          label={label}
          value=""
          width="100%"
          onChange={(to) => onChoose(to === FORGET ? null : to)}
          options={[
            { value: '', label: 'match with …' },
            ...options.map((name) => ({ value: name, label: name })),
            { value: FORGET, label: forget },
          ]}
        />
      </Box>
    </Flex>
  );
}

type Profile = SourceState['layers'][number]['profile'];

const namesOf = (profile: Profile): string[] => joinFields(profile.groups).map((f) => f.name);

/** Fields that rules of a layer are about and that no record has, with those that no rule is about yet. */
function fieldMisfits(layer: string, rule: LayerRule | undefined, names: string[]): { layer: string; field: string; free: string[] }[] {
  const ruled = Object.keys(rule?.fields ?? {});
  const free = names.filter((name) => !ruled.includes(name));
  return ruled
    .filter((field) => !isKnownField(field, names) && !(rule?.computed ?? []).includes(field))
    .map((field) => ({ layer, field, free }));
}

/** The choice that drops a rule; no layer and no field is called so. */
const FORGET = '\n';

const saysNothing = (rule: LayerRule | undefined): boolean => !rule || Object.keys(rule).length === 0;
