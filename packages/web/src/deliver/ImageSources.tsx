import { Flex } from '@chakra-ui/react';
import { Mono, Tick } from '../components/parts';

/** Which of the images of a crossing are taken. @param each what stands before the name of one for those who hear it */
export function ImageSources({
  label,
  each,
  names,
  chosen,
  onChange,
}: {
  label: string;
  each: string;
  names: readonly string[];
  chosen: readonly string[];
  onChange(chosen: string[]): void;
}) {
  return (
    <Flex gap="14px" wrap="wrap" role="group" aria-label={label}>
      {names.map((name) => (
        <Flex as="label" key={name} align="center" gap="6px" cursor="pointer">
          <Tick
            label={`${each} ${name}`}
            checked={chosen.includes(name)}
            onChange={(on) => onChange(names.filter((n) => (n === name ? on : chosen.includes(n))))}
          />
          <Mono fontSize="11.5px">{name}</Mono>
        </Flex>
      ))}
    </Flex>
  );
}
