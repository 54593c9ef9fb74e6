import { Fragment } from 'react';
import { Flex, Text } from '@chakra-ui/react';
import { ArrowRight, type LucideIcon } from 'lucide-react';
import { ICON } from './parts';

/** What comes next, shown small: a few things in a row, each with a word or two. */
export function Steps({ of }: { of: readonly { icon: LucideIcon; says: string }[] }) {
  return (
    <Flex align="flex-start" gap="10px" mb="6px" aria-hidden="true">
      {of.map(({ icon: Icon, says }, k) => (
        <Fragment key={says}>
          {k > 0 && (
            <Flex h="46px" align="center" color="ghost">
              <ArrowRight {...ICON} size={15} />
            </Flex>
          )}
          <Flex direction="column" align="center" gap="4px" w="84px">
            <Flex
              align="center"
              justify="center"
              w="46px"
              h="46px"
              borderWidth="1px"
              borderColor={k === of.length - 1 ? 'verdigris' : 'line'}
              borderRadius="sheet"
              bg={k === of.length - 1 ? 'verdigrisTint' : 'surface'}
              color={k === of.length - 1 ? 'verdigrisInk' : 'muted'}
            >
              <Icon size={22} strokeWidth={1.4} />
            </Flex>
            <Text textStyle="small" color="muted" lineHeight="15px">
              {says}
            </Text>
          </Flex>
        </Fragment>
      ))}
    </Flex>
  );
}
