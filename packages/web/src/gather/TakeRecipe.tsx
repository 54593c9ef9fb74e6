import { useState } from 'react';
import { Box, Button, Flex } from '@chakra-ui/react';
import { FileUp } from 'lucide-react';
import { validateRecipe } from '@pontrel/core/crossing/validate-recipe';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { parseRecipe, takenOver } from '@pontrel/core/crossing/recipe-file';
import { fillSlots } from '@pontrel/core/crossing/slots';
import type { Finding } from '@pontrel/core/model/finding';
import { messageOf } from '@pontrel/core/model/problem';
import { fillersOf } from '../crossing/slot-fillers';
import { useChange, useCrossing } from '../crossing/use-crossing';
import { chooseFiles } from '../app/files';
import { plural } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { ToldRow } from '../components/ToldRow';
import { ICON, Muted } from '../components/parts';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';
import { SideAction } from './SideAction';

/** Takes the rules of another crossing over: what of them no longer fits is told before they are taken. */
export function TakeRecipe() {
  const { recipe, sources } = useCrossing();
  const change = useChange();
  const dispatch = useAppDispatch();
  const [offered, setOffered] = useState<{ file: string; recipe: Recipe; told: Finding[] } | null>(null);
  const names = sources.map((s) => s.name);
  const choose = (): void =>
    chooseFiles(([file]) => {
      if (file)
        void file
          .text()
          .then((text) => {
            const read = fillSlots(
              parseRecipe(text, file.name),
              fillersOf(sources),
              sources.filter((s) => s.images).map((s) => s.name),
            );
            setOffered({
              file: file.name,
              recipe: read,
              told: validateRecipe(
                read,
                sources.map((s) => ({ name: s.name, layers: s.layers.map((l) => l.profile) })),
              ),
            });
          })
          .catch((error: unknown) => dispatch(noticeGiven({ tone: 'wrong', message: messageOf(error) })));
    });
  const take = (): void => {
    const { recipe: taken, file } = offered!;
    change(`rules of ${file}`, (draft) => void Object.assign(draft, takenOver(recipe, taken, names)));
    setOffered(null);
  };
  const fits = offered?.told.filter((f) => f.severity !== 'info').length === 0;
  return (
    <>
      <SideAction onClick={choose}>
        <FileUp {...ICON} />
        Take rules from a recipe
      </SideAction>
      <PaperDialog
        open={offered !== null}
        onClose={() => setOffered(null)}
        title={fits ? 'These rules fit' : 'Not all of these rules fit'}
        width="640px"
      >
        {offered && (
          <Muted display="block" mb="6px">
            {offered.file} has rules for {plural(Object.keys(offered.recipe.sources).length, 'source')} and makes{' '}
            {plural(offered.recipe.deliverables.length, 'deliverable')}. They take the place of the rules here; undo brings those back.
          </Muted>
        )}
        <Box maxH="46vh" overflowY="auto">
          {offered?.told.map((f, k) => (
            <ToldRow key={k} tone={f.severity === 'info' ? 'good' : 'caution'} name={f.location}>
              {f.message}
            </ToldRow>
          ))}
        </Box>
        <Flex justify="flex-end" gap="8px" mt="12px">
          <Button onClick={() => setOffered(null)}>Leave them</Button>
          <Button variant="solid" onClick={take}>
            Take these rules
          </Button>
        </Flex>
      </PaperDialog>
    </>
  );
}
