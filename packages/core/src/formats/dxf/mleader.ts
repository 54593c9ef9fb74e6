type Point = [number, number, number];

/** What a multileader draws. */
export interface MultiLeader {
  /** Each leader from its arrow to its landing. */
  lines: Point[][];
  text: string;
  /** Where its content stands; null when it has none. */
  at: Point | null;
}

/** Openings of nested lists, and their ends. Source: DXF Reference, MULTILEADER, "CONTEXT_DATA", "LEADER" and "LEADER_LINE". */
const OPEN: Record<string, string> = { 'CONTEXT_DATA{': 'context', 'LEADER{': 'leader', 'LEADER_LINE{': 'line' };

/**
 * @param groups every group of the entity, code and value by turns
 */
export function readMultiLeader(groups: readonly (number | string)[]): MultiLeader {
  const out: MultiLeader = { lines: [], text: '', at: null };
  const within: string[] = [];
  let lines: Point[][] = [];
  let end: Point = [0, 0, 0],
    dogleg: Point = [0, 0, 0],
    reach = 0;
  for (let i = 0; i + 1 < groups.length; i += 2) {
    const code = groups[i] as number,
      value = groups[i + 1]!;
    const text = String(value).trim();
    if (typeof value === 'string' && code >= 300 && code <= 305) {
      const opened = OPEN[text];
      if (opened) {
        within.push(opened);
        if (opened === 'leader') [lines, end, dogleg, reach] = [[], [0, 0, 0], [0, 0, 0], 0];
        else if (opened === 'line') lines.push([]);
        continue;
      }
      if (text === '}') {
        if (within.pop() === 'leader') {
          for (const line of lines)
            out.lines.push([
              ...line,
              end,
              ...(reach !== 0 ? [[end[0] + dogleg[0] * reach, end[1] + dogleg[1] * reach, end[2] + dogleg[2] * reach] as Point] : []),
            ]);
        }
        continue;
      }
    }
    const place = within.at(-1);
    const number = Number(value);
    const axis = Math.floor(code / 10) - 1;
    if (place === 'line') {
      if (code === 10) lines.at(-1)!.push([number, 0, 0]);
      else if ((code === 20 || code === 30) && lines.at(-1)!.length > 0) lines.at(-1)!.at(-1)![axis] = number;
    } else if (place === 'leader') {
      if (code === 10 || code === 20 || code === 30) end[axis] = number;
      else if (code === 11 || code === 21 || code === 31) dogleg[axis] = number;
      else if (code === 40) reach = number;
    } else if (place === 'context') {
      if (code === 304) out.text = String(value);
      else if (code === 10 || code === 20 || code === 30) (out.at ??= [0, 0, 0])[axis] = number;
    }
  }
  return out;
}
