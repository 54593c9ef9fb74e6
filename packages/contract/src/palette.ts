/** Every colour of the application, by day and by night. No other file holds a colour of its own. */
export interface Palette {
  paper: string;
  surface: string;
  map: string;
  sunk: string;
  hairline: string;
  line: string;
  ink: string;
  muted: string;
  oxide: string;
  oxideDeep: string;
  oxideTint: string;
  /** Lettering on oxide, verdigris and madder. */
  onAccent: string;
  verdigris: string;
  verdigrisInk: string;
  verdigrisTint: string;
  verdigrisLine: string;
  amber: string;
  amberInk: string;
  amberTint: string;
  amberLine: string;
  madder: string;
  madderInk: string;
  madderTint: string;
  madderLine: string;
  /** Sources that are only there for comparison. */
  ghost: string;
}

export const DAY: Palette = {
  paper: '#F6F3EC',
  surface: '#FFFDF8',
  map: '#FBF9F3',
  sunk: '#EFEADF',
  hairline: '#D9D2C3',
  line: '#C3BAA6',
  ink: '#1D2B36',
  muted: '#5E6A72',
  oxide: '#A8492A',
  oxideDeep: '#8C3A20',
  oxideTint: '#F6E6DE',
  onAccent: '#FFFDF8',
  verdigris: '#2C7A73',
  verdigrisInk: '#1F625C',
  verdigrisTint: '#E2EEEA',
  verdigrisLine: '#9CC4BD',
  amber: '#B97A12',
  amberInk: '#7A5008',
  amberTint: '#FAF0DA',
  amberLine: '#E3C68D',
  madder: '#A8243A',
  madderInk: '#8C1B2F',
  madderTint: '#F8E4E6',
  madderLine: '#DDA5AC',
  ghost: '#9A937F',
};

export const NIGHT: Palette = {
  paper: '#14191D',
  surface: '#1B2126',
  map: '#171D21',
  sunk: '#232A30',
  hairline: '#333C43',
  line: '#4A555D',
  ink: '#E9E4D8',
  muted: '#9DA8AE',
  oxide: '#B85A39',
  oxideDeep: '#E39A7E',
  oxideTint: '#3A241C',
  onAccent: '#FFFDF8',
  verdigris: '#3E958C',
  verdigrisInk: '#86CBC2',
  verdigrisTint: '#1E3431',
  verdigrisLine: '#3B6660',
  amber: '#D59A36',
  amberInk: '#EBC27A',
  amberTint: '#352B17',
  amberLine: '#6B5626',
  madder: '#D0526A',
  madderInk: '#F0A3B1',
  madderTint: '#3A1D24',
  madderLine: '#7A3444',
  ghost: '#77726A',
};

/** The bare hex of white, black and "by foreground" in a drawing, which stand for ink. */
export const FOREGROUND = new Set(['#ffffff', '#000000', '']);
