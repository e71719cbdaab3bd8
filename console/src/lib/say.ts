// How numbers and times are said.

export function bytes(count: number): string {
	if (count < 1000) return `${count} B`;
	if (count < 1e6) return `${(count / 1e3).toFixed(count < 1e4 ? 1 : 0)} kB`;
	if (count < 1e9) return `${(count / 1e6).toFixed(count < 1e8 ? 1 : 0)} MB`;
	return `${(count / 1e9).toFixed(1)} GB`;
}

export function counted(count: number, one: string, many = `${one}s`): string {
	return `${count.toLocaleString('en')} ${count === 1 ? one : many}`;
}

export function lasted(milliseconds: number): string {
	const seconds = milliseconds / 1000;
	if (seconds < 10) return `${Math.max(0, seconds).toFixed(1)} s`;
	if (seconds < 60) return `${Math.round(seconds)} s`;
	if (seconds < 3600) return `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`;
	return `${Math.floor(seconds / 3600)} h ${Math.floor((seconds % 3600) / 60)} min`;
}

const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' });
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
const moment = new Intl.DateTimeFormat('en-GB', {
	day: 'numeric',
	month: 'short',
	year: 'numeric',
	hour: '2-digit',
	minute: '2-digit',
});

export const timeOf = (at: string): string => clock.format(new Date(at));
export const dayOf = (at: string): string => day.format(new Date(at));
export const momentOf = (at: string): string => moment.format(new Date(at));

/** A time so many days back, as the service reads it. */
export const daysAgo = (days: number): string => new Date(Date.now() - days * 86_400_000).toISOString();

/** "3 minutes ago", "yesterday", or the day. */
export function ago(at: string, now: number = Date.now()): string {
	const seconds = (now - new Date(at).getTime()) / 1000;
	if (seconds < 45) return 'just now';
	if (seconds < 3600) return `${counted(Math.max(1, Math.round(seconds / 60)), 'minute')} ago`;
	if (seconds < 86400) return `${counted(Math.round(seconds / 3600), 'hour')} ago`;
	return seconds < 172800 ? 'yesterday' : dayOf(at);
}
