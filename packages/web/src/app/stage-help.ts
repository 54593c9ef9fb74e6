import type { Stage } from './stages';

/** What is done in each stage, for a person who has never been there. */
export const STAGE_HELP: Record<Stage, readonly string[]> = {
  gather: [
    'Bring in what the job is made of: drawings, shapefiles, containers, tables, images. Files and folders can be dropped anywhere; a file that is dropped on a source takes its place under the same rules.',
    'Each layer is a card with its count and its real size. A quay that measures 380 km is in millimetres: look at both before you trust a file. Leave what nobody wants, such as title blocks.',
  ],
  place: [
    'Say which coordinate reference system and which unit the numbers of each source are in. A file that states its system is placed by that; one that states none is searched for, fitted to control points, or scaled by a distance that you know.',
    'The path of a coordinate shows every change of datum on the way to the reference frame, with its accuracy. Lay the source over something that you trust before you go on.',
  ],
  shape: [
    'Choose which records cross and with which data: a filter, kinds of objects, the names and the room that fields get in the target. Choose several layers to give all of them the same rule.',
    'A green dot stands at what you changed; its arrow takes it back. What you leave out is drawn dashed on the map and counted as left out by you, never as lost.',
  ],
  deliver: [
    'Add what you hand over: a format, a coordinate reference system, an area. The forecast says of each layer what will be unchanged, changed, left out by you or not carried before anything is written.',
    'Run all that are ticked. Files are written, read back and compared with the sources; nothing is handed over half made.',
  ],
  prove: [
    'The files are read back and compared with the sources, record by record. Match means that every record read is accounted for, and that all that crossed is equal within the stated tolerance.',
    'Move the divider to see source and read-back side by side, open the report, and hand it over with the zip.',
  ],
};
