import { z } from 'zod';
import { CardProfile } from '@pontrel/core/crossing/card';

const XY = z.tuple([z.number(), z.number()]);
const Box = z.tuple([z.number(), z.number(), z.number(), z.number()]);

/** The pictures of a source on the map. */
export const PlacedPictures = z.object({
  source: z.string(),
  /** Changes whenever their tiles do. */
  stamp: z.string(),
  /** In the frame, as the map has it. */
  extent: Box,
  /** The outline of each picture that is taken, in the frame, from the top. */
  outlines: z.array(z.object({ name: z.string(), ring: z.array(XY) })),
});
export type PlacedPictures = z.infer<typeof PlacedPictures>;

/** About how large the files of a deliverable will be, by pieces of it that were packed. */
export const PictureSizes = z.object({
  bytes: z.number(),
  /** Pieces that the estimate is made of. */
  pieces: z.number(),
  /** The same for other qualities, where one can be chosen. */
  curve: z.array(z.object({ quality: z.number(), bytes: z.number() })),
});
export type PictureSizes = z.infer<typeof PictureSizes>;

/** A piece of a picture at full resolution, in its pixels: as it is to be, and as it is once it was packed, as data URLs of images. */
export const PieceView = z.object({
  x: z.number(),
  y: z.number(),
  width: z.number(),
  height: z.number(),
  expected: z.string(),
  written: z.string(),
  /** Values of a sample by which they differ, on the mean and at most. */
  mean: z.number(),
  worst: z.number(),
});
export type PieceView = z.infer<typeof PieceView>;

/** The values of pictures at a place, from the top. */
export const PixelValues = z.array(
  z.object({
    source: z.string(),
    name: z.string(),
    /** Column and row, from zero. */
    pixel: XY,
    /** Null where it has no value there. */
    values: z.array(z.number()).nullable(),
  }),
);
export type PixelValues = z.infer<typeof PixelValues>;

/** A place at which a written picture was laid over its sources. */
export const RegistrationView = z.object({
  at: XY,
  /** How far it lies off, in units of the frame and in pixels of the picture; null where there is too little texture to tell. */
  off: z.object({ dx: z.number(), dy: z.number(), px: z.number() }).nullable(),
});
export type RegistrationView = z.infer<typeof RegistrationView>;

/** A card of a field controller that is in the reader. */
export const Card = z.object({ name: z.string(), profile: CardProfile });
export type Card = z.infer<typeof Card>;

/** What was put on a card, in its folders. */
export const OnCard = z.object({ files: z.array(z.string()) });
export type OnCard = z.infer<typeof OnCard>;
