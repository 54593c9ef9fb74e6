import { useState } from 'react';
import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { RotateCcw, Trash2 } from 'lucide-react';
import type { BinItem } from '@pontrel/contract/crossing';
import { bytes, clock, day, plural } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { ICON, Muted } from '../components/parts';
import { messageOfError, useBinQuery, useDeleteForGoodMutation, useRestoreMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';

/** The crossings and sources that were deleted, until somebody deletes them for good. */
export function Bin() {
  const { data: binned = [] } = useBinQuery();
  const [open, setOpen] = useState(false);
  const [emptying, setEmptying] = useState(false);
  const [deleteForGood] = useDeleteForGoodMutation();
  const tell = useTell();
  if (binned.length === 0 && !open) return null;
  return (
    <>
      <Button variant="ghost" color="muted" onClick={() => setOpen(true)}>
        <Trash2 {...ICON} />
        Bin ({binned.length})
      </Button>
      <PaperDialog open={open} onClose={() => setOpen(false)} title="Bin">
        <Muted textStyle="small">What lies here has all its files and rules. It stays until it is deleted for good.</Muted>
        <Box maxH="360px" overflowY="auto" mt="8px">
          {binned.map((item) => (
            <Item key={item.id} item={item} />
          ))}
          {binned.length === 0 && <Text py="14px">The bin is empty.</Text>}
        </Box>
        {binned.length > 0 && (
          <Flex justify="flex-end" gap="8px" mt="12px">
            {emptying ? (
              <>
                <Button
                  variant="outline"
                  color="madderInk"
                  onClick={() => {
                    setEmptying(false);
                    void (async () => {
                      for (const { id } of binned) await deleteForGood(id).unwrap();
                    })().catch(tell);
                  }}
                >
                  Delete {plural(binned.length, 'item')} for good
                </Button>
                <Button autoFocus onClick={() => setEmptying(false)}>
                  Keep
                </Button>
              </>
            ) : (
              <Button onClick={() => setEmptying(true)}>Empty the bin</Button>
            )}
          </Flex>
        )}
      </PaperDialog>
    </>
  );
}

function useTell(): (error: unknown) => void {
  const dispatch = useAppDispatch();
  return (error) => void dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(error) }));
}

function Item({ item }: { item: BinItem }) {
  const [restore] = useRestoreMutation();
  const [deleteForGood] = useDeleteForGoodMutation();
  const [asking, setAsking] = useState(false);
  const tell = useTell();
  return (
    <Flex align="center" gap="10px" py="7px" borderTopWidth="1px" borderColor="hairline">
      <Box flex="1" minW="0">
        <Text fontWeight={650} truncate>
          {item.name}
        </Text>
        <Muted textStyle="small" truncate>
          {saidOf(item)} · {day(item.binned)}, {clock(item.binned)}
        </Muted>
      </Box>
      {asking ? (
        <>
          <Button size="sm" variant="outline" color="madderInk" onClick={() => deleteForGood(item.id).unwrap().catch(tell)}>
            Delete for good
          </Button>
          <Button size="sm" autoFocus onClick={() => setAsking(false)}>
            Keep
          </Button>
        </>
      ) : (
        <>
          <Button size="sm" onClick={() => restore(item.id).unwrap().catch(tell)}>
            <RotateCcw {...ICON} size={14} />
            Put back
          </Button>
          <Button
            size="sm"
            variant="ghost"
            px="0"
            color="muted"
            aria-label={`Delete ${item.name} for good`}
            onClick={() => setAsking(true)}
          >
            <Trash2 {...ICON} size={15} />
          </Button>
        </>
      )}
    </Flex>
  );
}

/** What the thing is, in a few words. */
function saidOf(item: BinItem): string {
  if (item.kind === 'crossing') return item.sources.join(', ') || 'no source';
  const place = item.by === null ? `a source of ${item.crossing}` : `a source of ${item.crossing}, where ${item.by} took its place`;
  return `${place}, ${bytes(item.bytes)}`;
}
