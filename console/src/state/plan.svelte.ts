import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';

export type Preview = Schemas['PlanPreview'];
export type Plan = Schemas['PlanOut'];

const TYPING_MS = 350;
export const ASK = '?';

/** What is to be installed where, and the plan as it would be, made anew while somebody types. */
export class PlanDraft {
	account = $state('');
	release = $state('');
	/** The address of a further site of the account; empty for its own. */
	site = $state('');
	sites: Schemas['SiteOut'][] = $state.raw([]);
	at = $state('/');
	database: Schemas['PlanNew']['database'] = $state('');
	/** How the files go over; empty for the best way that is open. */
	way: Schemas['PlanNew']['way'] = $state('');
	/** What becomes of what stands at the place; empty refuses it. */
	ifThere: Schemas['PlanNew']['if_there'] = $state('');
	/** Who makes the configuration; empty is the installer. */
	configure: Schemas['PlanNew']['configure'] = $state('');
	keep = $state(false);
	/** Said when the plan is bound to fail and is started all the same; a word for this plan only. */
	inSpite = $state(false);
	settings: Record<string, string> = $state({});
	preview: Preview | null = $state.raw(null);
	fault: FaultBody | null = $state.raw(null);
	looking = $state(false);
	/** Said when the account looked different at the start than in the plan that was shown. */
	changed = $state(false);
	#turn = 0;
	#typing: ReturnType<typeof setTimeout> | undefined;
	#calledOff: AbortController | null = null;

	get ready(): boolean {
		return this.account !== '' && this.release !== '';
	}

	get wanted(): Schemas['PlanNew'] {
		const settings = Object.fromEntries(Object.entries(this.settings).filter(([, v]) => v.trim() !== ''));
		return {
			account: this.account,
			site: this.site,
			release: this.release,
			at: this.at.trim() || '/',
			settings,
			database: this.database,
			primer: '',
			way: this.way,
			if_there: this.ifThere,
			configure: this.configure,
		};
	}

	/** Something was typed: look a moment later. */
	touch(wait = TYPING_MS): void {
		clearTimeout(this.#typing);
		this.#calledOff?.abort();
		this.changed = false;
		this.inSpite = false;
		if (!this.ready) {
			this.preview = null;
			this.looking = false;
			return;
		}
		this.looking = true;
		this.#typing = setTimeout(() => void this.look(), wait);
	}

	/** Another account was chosen: its sites are asked for, and its own is taken. */
	async choose(): Promise<void> {
		this.site = '';
		this.sites = [];
		this.touch(0);
		const name = this.account;
		if (!name) return;
		try {
			const found = await done(api.GET('/api/v1/accounts/{name}/sites', { params: { path: { name } } }));
			if (name === this.account) this.sites = found.items;
		} catch {
			// The plan beside it says what is wrong with the account.
		}
	}

	stop(): void {
		clearTimeout(this.#typing);
		this.#calledOff?.abort();
	}

	async look(): Promise<void> {
		const turn = ++this.#turn;
		const calledOff = new AbortController();
		this.#calledOff = calledOff;
		try {
			const asked = api.POST('/api/v1/plans/preview', { body: this.wanted, signal: calledOff.signal });
			const found = await done(asked);
			if (turn !== this.#turn) return;
			this.preview = found;
			this.fault = null;
		} catch (reason) {
			const fault = faultOf(reason);
			if (turn === this.#turn && fault !== null) this.fault = fault;
			if (fault === null) return;
		}
		if (turn === this.#turn) this.looking = false;
	}

	/** Keep the plan and start its job; returns the job's id, or null when the place changed since it was shown. */
	async start(): Promise<string | null> {
		const made = await done(api.POST('/api/v1/plans', { body: this.wanted }));
		const shown = this.preview?.plan;
		if (shown && shown.fingerprint !== made.fingerprint) {
			this.preview = { address: made.address, target: made.target, plan: made, fault: null };
			this.changed = true;
			return null;
		}
		const job = await done(
			api.POST('/api/v1/jobs', { body: { plan: made.id, keep: this.keep, in_spite: this.inSpite } }),
		);
		return job.id;
	}
}
