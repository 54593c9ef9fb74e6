export function writeManyLines(file: string, count: number): Promise<void>;
