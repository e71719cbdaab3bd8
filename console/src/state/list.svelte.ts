import { SvelteURLSearchParams } from 'svelte/reactivity';
import { faultOf, type FaultBody } from '../api/calls';
import { say } from '../lib/address';

export interface Wanted {
	limit: number;
	offset: number;
	sort: string;
	q: string;
}

export interface Found<T> {
	items: T[];
	total: number;
}

const TYPING_MS = 250;

/** A list whose pages, order and filter are the service's; what is shown stands in the page's address. */
export class List<T> {
	items: T[] = $state.raw([]);
	total = $state(0);
	loading = $state(true);
	fault: FaultBody | null = $state.raw(null);
	q = $state('');
	sort: string = $state('');
	page = $state(0);
	#turn = 0;
	#typing: ReturnType<typeof setTimeout> | undefined;

	constructor(
		readonly ask: (wanted: Wanted) => Promise<Found<T>>,
		readonly limit = 25,
		readonly inAddress = true,
	) {
		if (!inAddress) return;
		const given = new SvelteURLSearchParams(location.search);
		this.q = given.get('q') ?? '';
		this.sort = given.get('sort') ?? '';
		this.page = Math.max(0, Number.parseInt(given.get('page') ?? '1', 10) - 1 || 0);
	}

	get pages(): number {
		return Math.max(1, Math.ceil(this.total / this.limit));
	}

	async load(): Promise<void> {
		const turn = ++this.#turn;
		this.loading = true;
		try {
			const wanted = { limit: this.limit, offset: this.page * this.limit, sort: this.sort, q: this.q };
			const found = await this.ask(wanted);
			if (turn !== this.#turn) return;
			this.items = found.items;
			this.total = found.total;
			this.fault = null;
			if (this.page > 0 && found.items.length === 0 && found.total > 0) return this.turnTo(this.pages - 1);
		} catch (reason) {
			if (turn === this.#turn) this.fault = faultOf(reason);
		} finally {
			if (turn === this.#turn) this.loading = false;
		}
	}

	find(text: string): void {
		this.q = text;
		this.page = 0;
		clearTimeout(this.#typing);
		this.#typing = setTimeout(() => this.#changed(), TYPING_MS);
	}

	/** Sort by a column; a second time the other way round. */
	sortBy(column: string): void {
		this.sort = this.sort === column ? `-${column}` : column;
		this.page = 0;
		this.#changed();
	}

	async turnTo(page: number): Promise<void> {
		this.page = Math.min(Math.max(0, page), this.pages - 1);
		this.#changed();
	}

	#changed(): void {
		if (this.inAddress) say({ q: this.q, sort: this.sort, page: this.page ? String(this.page + 1) : '' });
		void this.load();
	}
}
