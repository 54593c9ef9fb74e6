import { chakra, type HTMLChakraProps } from '@chakra-ui/react';

/** A button that looks like a link within a text. */
export function TextButton(props: HTMLChakraProps<'button'>) {
  return (
    <chakra.button type="button" minH="24px" cursor="pointer" color="verdigrisInk" fontWeight={550} textDecoration="underline" {...props} />
  );
}
