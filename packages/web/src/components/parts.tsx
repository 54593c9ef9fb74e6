import type { ReactNode, Ref } from 'react';
import { Box, chakra, type BoxProps, Flex, Text, type TextProps } from '@chakra-ui/react';
import { AlertTriangle, Check, CircleX, Info } from 'lucide-react';

export const ICON = { size: 16, strokeWidth: 1.5 } as const;

export type Tone = 'plain' | 'good' | 'caution' | 'wrong';

const TONES: Record<Tone, { bg: string; color: string; borderColor: string }> = {
  plain: { bg: 'paper', color: 'ink', borderColor: 'hairline' },
  good: { bg: 'verdigrisTint', color: 'verdigrisInk', borderColor: 'verdigrisLine' },
  caution: { bg: 'amberTint', color: 'amberInk', borderColor: 'amberLine' },
  wrong: { bg: 'madderTint', color: 'madderInk', borderColor: 'madderLine' },
};

/** A small fact in a frame. */
export function Chip({ tone = 'plain', mono, icon, children }: { tone?: Tone; mono?: boolean; icon?: ReactNode; children: ReactNode }) {
  return (
    <Flex
      as="span"
      display="inline-flex"
      align="center"
      gap="5px"
      h="20px"
      px="7px"
      borderWidth="1px"
      borderRadius="chip"
      fontSize="11.5px"
      lineHeight="1"
      whiteSpace="nowrap"
      fontWeight={tone === 'plain' ? 450 : 550}
      fontFamily={mono ? 'mono' : 'body'}
      {...TONES[tone]}
    >
      {icon}
      {children}
    </Flex>
  );
}

export function ToneIcon({ tone, size = 15 }: { tone: Tone; size?: number }) {
  const props = { size, strokeWidth: 1.6, 'aria-hidden': true } as const;
  if (tone === 'good')
    return (
      <Box color="verdigris" flex="none">
        <Check {...props} />
      </Box>
    );
  if (tone === 'caution')
    return (
      <Box color="amber" flex="none">
        <AlertTriangle {...props} />
      </Box>
    );
  if (tone === 'wrong')
    return (
      <Box color="madder" flex="none">
        <CircleX {...props} />
      </Box>
    );
  return (
    <Box color="muted" flex="none">
      <Info {...props} />
    </Box>
  );
}

/** A notice that stands in the page. */
export function Note({
  tone,
  children,
  actions,
  ...rest
}: { tone: Exclude<Tone, 'plain'>; children: ReactNode; actions?: ReactNode } & BoxProps) {
  return (
    <Box
      borderWidth="1px"
      borderRadius="sheet"
      px="10px"
      py="8px"
      fontSize="12.5px"
      lineHeight="17px"
      {...TONES[tone]}
      color="ink"
      {...rest}
    >
      <Flex gap="8px" align="flex-start">
        <Box pt="1px">
          <ToneIcon tone={tone} />
        </Box>
        <Box flex="1" minW="0">
          {children}
        </Box>
      </Flex>
      {actions && (
        <Flex gap="6px" mt="7px">
          {actions}
        </Flex>
      )}
    </Box>
  );
}

export const severityTone = { info: 'plain', caution: 'caution', wrong: 'wrong' } as const;

export function Mono(props: TextProps) {
  return <Text as="span" textStyle="code" {...props} />;
}

export function Muted(props: TextProps) {
  return <Text as="span" color="muted" {...props} />;
}

/** A side panel's part, with a hairline above it. */
export function Section({
  title,
  aside,
  children,
  ...rest
}: { title?: ReactNode; aside?: ReactNode; children: ReactNode } & Omit<BoxProps, 'title'>) {
  return (
    <Box as="section" px="14px" pt="11px" pb="12px" borderTopWidth="1px" borderColor="hairline" _first={{ borderTopWidth: 0 }} {...rest}>
      {title !== undefined && (
        <Flex justify="space-between" align="baseline" gap="8px" mb="6px">
          <Text as="h2" textStyle="section" flex="none" maxW="100%">
            {title}
          </Text>
          {aside !== undefined && (
            <Text as="div" textStyle="small" color="muted" textAlign="right" minW="0">
              {aside}
            </Text>
          )}
        </Flex>
      )}
      {children}
    </Box>
  );
}

/** What grows and scrolls in a panel. */
export function Scroll(props: BoxProps & { ref?: Ref<HTMLDivElement> }) {
  return <Box flex="1" minH="0" overflowY="auto" scrollbarWidth="thin" scrollbarColor="{colors.line} transparent" {...props} />;
}

const HiddenRadio = chakra('input', {
  base: { position: 'absolute', opacity: 0, inset: 0, width: '100% !important', height: '100% !important' },
});

/** One choice out of a few, side by side; arrow keys move between them. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  small,
}: {
  label: string;
  /** Null where none holds, as of several things that differ. */
  value: T | null;
  options: readonly { value: T; label: ReactNode; disabled?: boolean }[];
  onChange(value: T): void;
  small?: boolean;
}) {
  return (
    <Flex
      role="radiogroup"
      aria-label={label}
      display="inline-flex"
      borderWidth="1px"
      borderColor="line"
      borderRadius="sheet"
      bg="paper"
      overflow="hidden"
    >
      {options.map((o) => {
        const on = o.value === value;
        return (
          <chakra.label
            key={o.value}
            position="relative"
            flex="1 1 auto"
            textAlign="center"
            px={small ? '7px' : '9px'}
            h={small ? '24px' : '28px'}
            lineHeight={small ? '24px' : '28px'}
            fontSize={small ? '12px' : '12.5px'}
            whiteSpace="nowrap"
            cursor={o.disabled ? 'not-allowed' : 'pointer'}
            fontWeight={on ? 650 : 500}
            color={on ? 'verdigrisInk' : 'muted'}
            bg={on ? 'verdigrisTint' : 'transparent'}
            boxShadow={on ? 'inset 0 0 0 1px {colors.verdigris}' : undefined}
            borderRadius="chip"
            _hover={on ? {} : { color: 'ink' }}
            _focusWithin={{ outline: '2px solid', outlineColor: 'verdigris', outlineOffset: '-2px' }}
          >
            <HiddenRadio type="radio" name={label} checked={on} disabled={o.disabled} onChange={() => onChange(o.value)} />
            {o.label}
          </chakra.label>
        );
      })}
    </Flex>
  );
}

/** The select of the platform in the look of the page. */
export const NativeSelect = chakra('select', {
  base: {
    h: '28px',
    px: '7px',
    borderWidth: '1px',
    borderColor: 'line',
    borderRadius: 'sheet',
    bg: 'surface',
    color: 'ink',
    fontSize: '12.5px',
    minW: 0,
    cursor: 'pointer',
  },
});

export function Select<T extends string>({
  label,
  value,
  options,
  onChange,
  width,
}: {
  label: string;
  value: T;
  options: readonly { value: T; label: string }[];
  onChange(value: T): void;
  width?: string;
}) {
  return (
    <NativeSelect aria-label={label} value={value} w={width} onChange={(e) => onChange(e.target.value as T)}>
      {options.map((o) => (
        <option key={o.value} value={o.value}>
          {o.label}
        </option>
      ))}
    </NativeSelect>
  );
}

/** A checkbox that can stand for some of many. */
export function Tick({
  label,
  checked,
  some,
  onChange,
  disabled,
}: {
  label: string;
  checked: boolean;
  some?: boolean;
  onChange(checked: boolean): void;
  disabled?: boolean;
}) {
  return (
    <chakra.input
      type="checkbox"
      aria-label={label}
      checked={checked}
      disabled={disabled}
      ref={(el: HTMLInputElement | null) => {
        if (el) el.indeterminate = Boolean(some) && !checked;
      }}
      onChange={(e) => onChange(e.target.checked)}
      onClick={(e) => e.stopPropagation()}
    />
  );
}

/** What a place without content says: what it is for and what to do next, shown small where there is a picture of it. */
export function Empty({
  title,
  children,
  action,
  picture,
}: {
  title: string;
  children: ReactNode;
  action?: ReactNode;
  picture?: ReactNode;
}) {
  return (
    <Flex direction="column" align="center" justify="center" textAlign="center" h="100%" p="32px" gap="8px">
      {picture}
      <Text textStyle="title">{title}</Text>
      <Text color="muted" maxW="420px">
        {children}
      </Text>
      {action && <Box mt="6px">{action}</Box>}
    </Flex>
  );
}

/** A share of a whole: what is unchanged is calm, what is changed is pale, what stays behind cannot be overlooked. */
export function FateBar({
  unchanged,
  changed,
  excluded = 0,
  left,
  height = 8,
}: {
  unchanged: number;
  changed: number;
  /** Left out by choice. */
  excluded?: number;
  /** Could not be carried. */
  left: number;
  height?: number;
}) {
  const total = unchanged + changed + excluded + left;
  if (total === 0) return <Box h={`${height}px`} bg="sunk" borderRadius="2px" />;
  return (
    <Flex h={`${height}px`} gap="1px" aria-hidden="true" align="center">
      {unchanged > 0 && <Box flexGrow={unchanged} flexBasis="0" h="100%" bg="verdigris" borderRadius="2px" minW="2px" />}
      {changed > 0 && <Box flexGrow={changed} flexBasis="0" h="100%" bg="amberLine" borderRadius="2px" minW="2px" />}
      {excluded > 0 && <Box flexGrow={excluded} flexBasis="0" h="100%" bg="ghost" opacity={0.5} borderRadius="2px" minW="2px" />}
      {left > 0 && <Box flexGrow={left} flexBasis="0" h={`${height + 4}px`} bg="madder" borderRadius="2px" minW="7px" />}
    </Flex>
  );
}
