import type { ReactNode } from 'react';
import { Flex } from '@chakra-ui/react';
import type { Finding } from '@pontrel/core/model/finding';
import { grouped } from '../components/numbers';
import { Mono, Muted, Note, severityTone, Tick } from '../components/parts';

/** What is looked at, whether it is taken, and what it is. */
export function InspectorHead({
  name,
  taken,
  onTake,
  children,
}: {
  name: string;
  taken: boolean;
  onTake(taken: boolean): void;
  children: ReactNode;
}) {
  return (
    <>
      <Flex align="center" gap="8px">
        <Tick label={`Take ${name}, from the inspector`} checked={taken} onChange={onTake} />
        <Mono fontSize="13.5px" fontWeight={600} truncate title={name}>
          {name}
        </Mono>
      </Flex>
      <Muted textStyle="small">
        {children}
        {taken ? '' : ' · left'}
      </Muted>
    </>
  );
}

/** Findings as notes, below one another. */
export function FindingNotes({ findings }: { findings: readonly Finding[] }) {
  return findings.map((f) => (
    <Note
      key={f.code + f.message}
      tone={f.severity === 'info' ? 'good' : severityTone[f.severity] === 'wrong' ? 'wrong' : 'caution'}
      mt="8px"
    >
      <b>{f.count > 1 ? `${grouped(f.count)} × ` : ''}</b>
      {f.message}
    </Note>
  ));
}
