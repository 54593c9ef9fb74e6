import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { type DeviceProfile, DEVICES, PROFILE_FILE } from './profiles';

/** Makes a folder that plays the removable card of a device. @throws Error for a type that there is none of */
export async function makeCard(folder: string, type: string): Promise<DeviceProfile> {
  const profile = DEVICES[type];
  if (!profile) throw new Error(`There is no device of type "${type}". There are: ${Object.keys(DEVICES).join(', ')}.`);
  for (const name of [profile.folder, ...profile.others]) await mkdir(path.join(folder, name), { recursive: true });
  await writeFile(path.join(folder, PROFILE_FILE), `${JSON.stringify(profile, null, 1)}\n`);
  return profile;
}

/** What a device makes of one image on its card. */
export interface Verdict {
  file: string;
  accepted: boolean;
  /** Why not, as its screen says it; empty where it is accepted. */
  reasons: string[];
}

/** Puts a card into its device, which looks at the images on it as it would in the field: by its own reading of their bytes. */
export async function insertCard(folder: string): Promise<Verdict[]> {
  const profile = JSON.parse(await readFile(path.join(folder, PROFILE_FILE), 'utf8')) as DeviceProfile;
  const own = path.join(folder, profile.folder);
  const names = (await readdir(own)).sort();
  const images = names.filter((n) => /\.(jpe?g|png|tiff?|jp2|bmp)$/i.test(n));
  return Promise.all(
    images.map(async (file) => {
      const reasons = await reasonsAgainst(own, file, names, profile);
      return { file, accepted: reasons.length === 0, reasons };
    }),
  );
}

async function reasonsAgainst(folder: string, file: string, names: readonly string[], profile: DeviceProfile): Promise<string[]> {
  const extension = path.extname(file);
  const stem = file.slice(0, file.length - extension.length);
  if (extension.toLowerCase() !== profile.extension) return [`Only ${profile.extension} images can be shown.`];
  const reasons: string[] = [];
  const bytes = await readFile(path.join(folder, file));
  if (bytes.length > profile.mostBytes) reasons.push(`The file has ${bytes.length} bytes; ${profile.mostBytes} can be held.`);
  if (stem.length > profile.nameLetters) reasons.push(`The name has ${stem.length} letters; ${profile.nameLetters} can be shown.`);
  if (!/^[A-Za-z0-9_]+$/.test(stem)) reasons.push('The name has letters that cannot be shown.');
  const system = /_(\d{4,5})$/.exec(stem)?.[1];
  if (profile.systemInName && system === undefined) reasons.push('The name does not end with the number of its coordinate system.');
  if (system !== undefined && profile.systems && !profile.systems.includes(Number(system))) reasons.push(`System ${system} is not known.`);
  const frame = profile.extension === '.jpg' ? jpegFrame(bytes) : null;
  if (profile.extension === '.jpg' && !frame) reasons.push('The image cannot be unpacked.');
  if (frame?.progressive) reasons.push('The image is progressive; only baseline can be unpacked.');
  if (frame && frame.width * frame.height > profile.mostPixels)
    reasons.push(`The image has ${frame.width * frame.height} pixels; ${profile.mostPixels} can be shown.`);
  const world = names.find((n) => n.toLowerCase() === `${stem}.jgw`.toLowerCase());
  if (world === undefined) return [...reasons, 'No world file (.jgw) was found.'];
  const lines = (await readFile(path.join(folder, world), 'latin1'))
    .trim()
    .split(/\r?\n/)
    .map((l) => Number(l));
  if (lines.length !== 6 || lines.some((n) => !Number.isFinite(n))) reasons.push('The world file does not have six numbers.');
  else if (!profile.turned && (lines[1] !== 0 || lines[2] !== 0)) reasons.push('The image is turned, which cannot be shown.');
  return reasons;
}

/** Size and process of a JPEG by its frame header; null where there is none. Source: ITU-T T.81, annex B.2.2. */
function jpegFrame(bytes: Uint8Array): { width: number; height: number; progressive: boolean } | null {
  if (bytes[0] !== 0xff || bytes[1] !== 0xd8) return null;
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) return null;
    const marker = bytes[at + 1]!;
    const length = (bytes[at + 2]! << 8) | bytes[at + 3]!;
    // frame headers are SOF0 to SOF15, but for tables and the restart of arithmetic
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker))
      return {
        height: (bytes[at + 5]! << 8) | bytes[at + 6]!,
        width: (bytes[at + 7]! << 8) | bytes[at + 8]!,
        progressive: marker !== 0xc0,
      };
    at += 2 + length;
  }
  return null;
}
