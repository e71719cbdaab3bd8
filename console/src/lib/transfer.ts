// A transfer address and its parts, as the service writes it: kind://login@host:port. Pure.

export type Kind = 'sftp' | 'ftps' | 'ftps-implicit' | 'ftp';
export interface Transfer {
	kind: Kind;
	host: string;
	port: string;
	login: string;
}

export const KINDS: Record<Kind, { title: string; port: string; about: string }> = {
	sftp: {
		title: 'SFTP',
		port: '22',
		about: 'Encrypted, often with a shell: the best where the host has it.',
	},
	ftps: { title: 'FTP with TLS', port: '21', about: 'Encrypted. Also called FTPS, FTP over TLS or FTPES.' },
	'ftps-implicit': {
		title: 'FTP with TLS from the first byte',
		port: '990',
		about: 'Encrypted. Also called implicit FTPS; mostly at port 990, on older hosts.',
	},
	ftp: {
		title: 'Plain FTP',
		port: '21',
		about: 'Sends the password and every file in the clear. Only where the host has nothing else.',
	},
};

/** The address. A login may hold an @, as many hosts' do; what would end it is written as %XX. */
export function compose({ kind, host, port, login }: Transfer): string {
	const quoted = encodeURIComponent(login.trim()).replaceAll('%40', '@');
	const name = host.trim().replace(/^\[|\]$/g, '');
	return `${kind}://${quoted}@${name.includes(':') ? `[${name}]` : name}:${port.trim() || KINDS[kind].port}`;
}

export function parse(address: string): Transfer {
	const found = /^(sftp|ftps-implicit|ftps|ftp):\/\/(.*)@(\[[^\]]+\]|[^@:]*):(\d+)$/.exec(address);
	if (!found) return { kind: 'sftp', host: '', port: '22', login: '' };
	const [, kind, login, host, port] = found as unknown as [string, Kind, string, string, string];
	return { kind, login: decodeURIComponent(login), host: host.replace(/^\[|\]$/g, ''), port };
}

/** A short name for an account out of its title or address, such as `saltings-choir`. */
export function nameFrom(title: string): string {
	return title
		.normalize('NFKD')
		.replace(/[\u0300-\u036f]/g, '')
		.toLowerCase()
		.replace(/[^a-z0-9]+/g, '-')
		.replace(/^-+|-+$/g, '')
		.slice(0, 40)
		.replace(/-+$/, '');
}
