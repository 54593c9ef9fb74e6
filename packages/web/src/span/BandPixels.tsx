import { Box } from '@chakra-ui/react';
import { Link } from 'react-router';
import { isImageProof } from '@pontrel/core/content/raster/proof';
import { grouped, pixelsText } from '../components/numbers';
import { Muted, Scroll, Section } from '../components/parts';
import { useCrossing } from '../crossing/use-crossing';
import { PixelFates } from '../prove/PixelFates';
import { useProofQuery } from '../state/api';
import { BandHead } from './BandRecords';
import type { Band, EndBlock, LayerBlock } from './flows';

/** What becomes of the pixels of an image: its pictures, and where its last run is still true, the account of each pixel. */
export function BandPixels({ band, layer, end }: { band: Band; layer: LayerBlock; end: EndBlock }) {
  const { id, runs, sources } = useCrossing();
  const run = runs.find((r) => r.deliverable === end.deliverable && r.current);
  const { data } = useProofQuery(run?.id ?? '', { skip: !run });
  const proof = data?.proof;
  const account = proof && (isImageProof(proof) ? proof.account : proof.below?.account);
  const rows = account?.filter((row) => row.source === layer.source);
  const members = sources.find((s) => s.name === layer.source)?.images?.members ?? [];
  return (
    <Scroll>
      <BandHead band={band} layer={layer} end={end} count={pixelsText(band.count)} />
      {rows && rows.length > 0 && <PixelFates rows={rows} />}
      <Section title={members.length === 1 ? 'The image' : 'Its images'}>
        <table>
          <tbody>
            {members.map((m) => (
              <tr key={m.name}>
                <td>{m.name}</td>
                <td className="number">
                  {grouped(m.info.width)} × {grouped(m.info.height)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <Box asChild display="inline-block" mt="6px" color="verdigrisInk" fontWeight={550} textDecoration="underline" minH="24px">
          <Link to={`/crossings/${id}/gather`}>Show it in Gather</Link>
        </Box>
        {!run && end.deliverable !== null && (
          <Muted display="block" textStyle="small" mt="4px">
            What becomes of each pixel is counted by the run.
          </Muted>
        )}
      </Section>
    </Scroll>
  );
}
