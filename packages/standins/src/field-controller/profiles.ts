/** What an invented field controller takes from its card. */
export interface DeviceProfile {
  /** Its maker's name for it. */
  model: string;
  /** Folder of the card for images behind the map. */
  folder: string;
  /** Other folders of the card, which are the device's own. */
  others: readonly string[];
  extension: '.jpg' | '.tif';
  mostPixels: number;
  mostBytes: number;
  /** Letters of a name, before its extension. */
  nameLetters: number;
  /** Whether it reads world files that are turned. */
  turned: boolean;
  /** Whether the name has to end with the number of the system, such as site_2193. */
  systemInName: boolean;
  /** Numbers of the systems that it knows; any where absent. */
  systems?: readonly number[];
}

/** The devices that are played here; no such thing is sold. */
export const DEVICES: Readonly<Record<string, DeviceProfile>> = {
  a: {
    model: 'Field controller, type A',
    folder: 'BACKDROP',
    others: ['JOBS', 'CONTROL'],
    extension: '.jpg',
    mostPixels: 40e6,
    mostBytes: 20e6,
    nameLetters: 12,
    turned: false,
    systemInName: false,
  },
  b: {
    model: 'Field controller, type B',
    folder: 'IMAGES',
    others: ['PROJECTS'],
    extension: '.jpg',
    mostPixels: 8e6,
    mostBytes: 3e6,
    nameLetters: 20,
    turned: false,
    systemInName: true,
    systems: [2193, 2126, 27200],
  },
};

/** The file on a card by which a device says what it takes. */
export const PROFILE_FILE = 'DEVICE.JSON';
