import { existsSync } from 'node:fs';
import path from 'node:path';
import type { ImageMember } from '@pontrel/core/content/raster/profile';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import type { ByteSource } from '@pontrel/core/io/bytes';
import { type FileImage, imageFile } from '@pontrel/host-node/file-image';
import { storedExtension } from './read-source';

/** A picture of a source as its files lie: under names made here, by its number. */
export interface StoredMember {
  /** What people call it. */
  name: string;
  extension: string;
  companions: string[];
}

/** Where the pictures of a source lie. */
export interface ImageFiles {
  folder: string;
  /** What people call the source. */
  name: string;
  members: StoredMember[];
}

const stemOf = (k: number): string => `image-${k + 1}`;

/** A file of the picture with that number, by its extension. */
export const memberFile = (folder: string, k: number, extension: string): string => path.join(folder, stemOf(k) + extension);

/** The smaller pictures of it. */
export const pyramidFile = (folder: string, k: number): string => path.join(folder, `${stemOf(k)}.pyramid`);

/** How all pictures of a source look together, for cards. */
export const THUMBNAIL_FILE = 'thumbnail.webp';

/** The files of a source of pictures that was read into `folder`. */
export function storedImages(folder: string, name: string, members: readonly Pick<ImageMember, 'name' | 'format'>[]): ImageFiles {
  return {
    folder,
    name,
    members: members.map((member, k) => storedMember(folder, k, member)),
  };
}

/** The files of the picture with that number. */
export function storedMember(folder: string, k: number, member: Pick<ImageMember, 'name' | 'format'>): StoredMember {
  const format = anyFormatById(member.format)!;
  return {
    name: member.name,
    extension: storedExtension(member.name, format),
    companions: format.companions.filter((c) => existsSync(memberFile(folder, k, c))),
  };
}

/** The picture with that number as its files lie, those that belong to it among them. */
export const fileOfMember = (
  folder: string,
  k: number,
  { name, extension, companions }: StoredMember,
): Pick<FileImage, 'file' | 'stored'> => ({
  file: memberFile(folder, k, extension),
  stored: { title: name, companions: Object.fromEntries(companions.map((c) => [c, memberFile(folder, k, c)])) },
});

/** The picture with that number, with the files that belong to it. */
export const openMember = (folder: string, k: number, member: StoredMember): Promise<ByteSource> =>
  imageFile(fileOfMember(folder, k, member));
