// Lines of a survey, grouped as they stand in the table. Pure.
import type { Schemas } from '../api/calls';

export type Line = Schemas['SurveyLine'];

export interface Group {
	name: string;
	lines: Line[];
}

/** The lines by group, in the order they came. */
export function grouped(lines: readonly Line[]): Group[] {
	const groups: Group[] = [];
	for (const line of lines) {
		const last = groups.at(-1);
		if (last?.name === line.group) last.lines.push(line);
		else groups.push({ name: line.group, lines: [line] });
	}
	return groups;
}

export interface Count {
	heed: number;
	bad: number;
	unknown: number;
}

export function counted(lines: readonly Line[]): Count {
	const of = (state: Line['state']): number => lines.filter((line) => line.state === state).length;
	return { heed: of('heed'), bad: of('bad'), unknown: of('unknown') };
}

/** What the survey says in the end: how files will come there and go. */
export function meaning(lines: readonly Line[]): Line[] {
	return lines.filter((line) => line.topic === 'placing' || line.topic === 'undoing');
}
