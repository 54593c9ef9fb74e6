import { useMemo, useState } from 'react';
import { Box, Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { FolderOpen } from 'lucide-react';
import picomatch from 'picomatch';
import { Controller, useForm } from 'react-hook-form';
import { extensionOf } from '@pontrel/core/formats/extension';
import { EVERY_FORMAT } from '@pontrel/core/formats/every-format';
import { IMAGE_FORMATS } from '@pontrel/core/formats/images';
import { chooseFolder, useTakeFiles } from '../app/files';
import { bytes, plural } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { Choice, ICON, Mono, Muted, Tick } from '../components/parts';

const READ = IMAGE_FORMATS.filter((f) => f.images.locate || f.images.holds);
const isImage = (name: string): boolean => READ.some((f) => f.extensions.includes(extensionOf(name)));
const isBeside = (name: string): boolean => EVERY_FORMAT.some((f) => f.images && f.companions.includes(extensionOf(name)));
const stemOf = (path: string): string => path.slice(0, path.length - extensionOf(path).length).toLowerCase();

/** The path of a file within the folder that was chosen, without the folder itself. */
const within = (file: File): string => file.webkitRelativePath.split('/').slice(1).join('/') || file.name;

/** Images of a folder whose names fit a mask, with the files that say where they lie; other files are passed over. */
export function matching(files: readonly File[], mask: string, subfolders: boolean): { images: File[]; beside: File[]; passed: number } {
  const fits = picomatch(mask.trim() === '' ? '*' : mask.trim(), { nocase: true });
  const images = files.filter((f) => {
    const path = within(f);
    return (subfolders || !path.includes('/')) && isImage(f.name) && fits(f.name);
  });
  const stems = new Set(images.map((f) => stemOf(within(f))));
  const beside = files.filter((f) => !images.includes(f) && isBeside(f.name) && stems.has(stemOf(within(f))));
  return { images, beside, passed: files.length - images.length - beside.length };
}

const SHOWN = 200;

/** What is asked of a folder. */
interface Asked {
  mask: string;
  subfolders: boolean;
  as: 'mosaic' | 'single';
}

/** A folder of images, by a mask of their names: as one mosaic, or each by itself. */
export function AddImages({ open, onClose }: { open: boolean; onClose(): void }) {
  const take = useTakeFiles();
  const [files, setFiles] = useState<readonly File[]>([]);
  const { control, register, handleSubmit, watch } = useForm<Asked>({ defaultValues: { mask: '*.tif', subfolders: false, as: 'mosaic' } });
  const [mask, subfolders] = watch(['mask', 'subfolders']);
  const { images, beside, passed } = useMemo(() => matching(files, mask, subfolders), [files, mask, subfolders]);
  const size = images.reduce((n, f) => n + f.size, 0);
  const submit = handleSubmit(({ as }) => {
    onClose();
    setFiles([]);
    void take([...images, ...beside], as === 'mosaic');
  });
  return (
    <PaperDialog open={open} onClose={onClose} title="A folder of images" width="600px">
      <Muted display="block" mb="10px">
        World files and .prj beside the images come along; everything else in the folder is passed over.
      </Muted>
      <Grid templateColumns="90px minmax(0, 1fr)" rowGap="8px" alignItems="center">
        <Muted>Folder</Muted>
        <Flex align="center" gap="10px">
          <Button size="sm" onClick={() => chooseFolder(setFiles)}>
            <FolderOpen {...ICON} size={14} />
            Choose a folder
          </Button>
          <Mono truncate>{files[0]?.webkitRelativePath.split('/')[0] ?? ''}</Mono>
        </Flex>
        <Muted>Names like</Muted>
        <Flex align="center" gap="12px">
          <Input aria-label="Names like" {...register('mask')} w="200px" h="28px" fontFamily="mono" placeholder="ortho_*.tif" />
          <Flex as="label" align="center" gap="6px" cursor="pointer">
            <Controller
              control={control}
              name="subfolders"
              render={({ field }) => <Tick label="Folders within it as well" checked={field.value} onChange={field.onChange} />}
            />
            folders within it as well
          </Flex>
        </Flex>
        <Muted>Become</Muted>
        <Box>
          <Controller
            control={control}
            name="as"
            render={({ field }) => (
              <Choice<Asked['as']>
                small
                label="What they become"
                value={field.value}
                onChange={field.onChange}
                options={[
                  { value: 'mosaic', label: 'One mosaic' },
                  { value: 'single', label: 'By their names' },
                ]}
              />
            )}
          />
        </Box>
      </Grid>
      <Box
        mt="12px"
        h="180px"
        overflowY="auto"
        borderWidth="1px"
        borderColor="hairline"
        borderRadius="sheet"
        px="10px"
        py="6px"
        tabIndex={0}
        role="region"
        aria-label="Images that fit"
      >
        {images.slice(0, SHOWN).map((f) => (
          <Flex key={within(f)} justify="space-between" h="22px">
            <Mono truncate>{within(f)}</Mono>
            <Mono color="muted">{bytes(f.size)}</Mono>
          </Flex>
        ))}
        {images.length > SHOWN && <Muted textStyle="small">and {plural(images.length - SHOWN, 'more', 'more')}</Muted>}
        {images.length === 0 && (
          <Text color="muted">{files.length === 0 ? 'No folder chosen yet.' : 'No image in it has such a name.'}</Text>
        )}
      </Box>
      <Flex align="center" justify="space-between" mt="12px">
        <Muted aria-live="polite">
          {files.length > 0 &&
            [
              plural(images.length, 'image'),
              bytes(size),
              ...(beside.length > 0 ? [`${plural(beside.length, 'file')} beside them`] : []),
              ...(passed > 0 ? [`${passed} passed over`] : []),
            ].join(', ')}
        </Muted>
        <Button variant="solid" disabled={images.length === 0} onClick={() => void submit()}>
          Take them in
        </Button>
      </Flex>
    </PaperDialog>
  );
}
