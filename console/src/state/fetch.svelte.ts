import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';

type Fetched = Schemas['FetchOut'];
const POLL_MS = 400;
const FINAL = ['done', 'failed', 'cancelled'];

/** What an order of a release from its makers says: the address, what to compare it with, what signs in. */
export interface Order {
	address: string;
	checksum: string;
	signature: string;
	key: string;
	signIn: string;
}

/** The body of an order: a checksum may be the thing itself or the address of a file of them, and so may a key. */
export function bodyOf(order: Order): Schemas['FetchNew'] {
	const isAddress = (text: string): boolean => /^https?:\/\//i.test(text.trim());
	const headers: Record<string, string> = {};
	for (const line of order.signIn.split('\n')) {
		const colon = line.indexOf(':');
		if (colon > 0) headers[line.slice(0, colon).trim()] = line.slice(colon + 1).trim();
	}
	const checksum = order.checksum.trim();
	const key = order.key.trim();
	return {
		address: order.address.trim(),
		checksum: isAddress(checksum) ? '' : checksum,
		checksum_address: isAddress(checksum) ? checksum : '',
		signature_address: order.signature.trim(),
		key: isAddress(key) ? '' : key,
		key_address: isAddress(key) ? key : '',
		headers,
		accept: [],
		wait_seconds: 0,
	};
}

/** One release on its way from its makers to the shelf; the service fetches on when nobody looks. */
export class FromMakers {
	now = $state.raw<Fetched | null>(null);
	fault = $state.raw<FaultBody | null>(null);
	busy = $state(false);
	#gone = false;

	/** Fetch and wait for the end; the release, or null when it did not come. */
	async start(order: Order): Promise<Schemas['ReleaseOut'] | null> {
		[this.now, this.fault, this.busy] = [null, null, true];
		try {
			this.now = await done(api.POST('/api/v1/fetches', { body: bodyOf(order) }));
			return await this.#follow();
		} catch (reason) {
			this.fault = faultOf(reason);
			return null;
		} finally {
			this.busy = false;
		}
	}

	/** A fetch of before that is still under way, when there is one: the page was closed meanwhile. */
	async takeUp(): Promise<Schemas['ReleaseOut'] | null> {
		try {
			const query = { unfinished: true, limit: 1 };
			const found = await done(api.GET('/api/v1/fetches', { params: { query } }));
			const one = found.items[0];
			if (!one || this.busy) return null;
			[this.now, this.busy] = [one, true];
			return await this.#follow();
		} catch (reason) {
			this.fault = faultOf(reason);
			return null;
		} finally {
			this.busy = false;
		}
	}

	async stop(): Promise<void> {
		if (!this.now) return;
		try {
			await done(
				api.POST('/api/v1/fetches/{fetch_id}/cancel', { params: { path: { fetch_id: this.now.id } } }),
			);
		} catch (reason) {
			this.fault = faultOf(reason);
		}
	}

	/** Nobody looks any more. */
	leave(): void {
		this.#gone = true;
	}

	async #follow(): Promise<Schemas['ReleaseOut'] | null> {
		while (this.now && !FINAL.includes(this.now.state)) {
			await new Promise((woken) => setTimeout(woken, POLL_MS));
			if (this.#gone) return null;
			const path = { fetch_id: this.now.id };
			this.now = await done(api.GET('/api/v1/fetches/{fetch_id}', { params: { path } }));
		}
		this.fault = this.now?.state === 'failed' ? this.now.fault : null;
		if (!this.now?.release) return null;
		return done(api.GET('/api/v1/releases/{ref}', { params: { path: { ref: this.now.release } } }));
	}
}
