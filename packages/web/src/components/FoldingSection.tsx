import type { ReactNode } from 'react';
import { Button } from '@chakra-ui/react';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { useKept } from '../state/kept';
import { ICON, Section } from './parts';

/** A part of a side panel that folds to its title and what stands beside it; the browser remembers it. */
export function FoldingSection({
  name,
  title,
  aside,
  children,
}: {
  /** What it is remembered by. */
  name: string;
  title: string;
  aside?: ReactNode;
  children: ReactNode;
}) {
  const [folded, setFolded] = useKept(`folded.${name}`, false);
  const Chevron = folded ? ChevronRight : ChevronDown;
  return (
    <Section
      title={
        <Button
          variant="ghost"
          size="sm"
          h="24px"
          px="2px"
          ml="-6px"
          gap="3px"
          textStyle="section"
          aria-expanded={!folded}
          onClick={() => setFolded(!folded)}
        >
          <Chevron {...ICON} size={13} />
          {title}
        </Button>
      }
      aside={aside}
    >
      {!folded && children}
    </Section>
  );
}
