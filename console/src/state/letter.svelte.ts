import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';

type Ask = { text: string } | { file: string };

/** A host's welcome letter: what stands in it, for somebody to look at. Nothing is kept by reading it. */
export class LetterReading {
	text = $state('');
	/** Each account that the letter opens, in its order. */
	all = $state.raw<Schemas['LetterOut'][]>([]);
	/** Which of them is looked at. */
	which = $state(0);
	fault = $state.raw<FaultBody | null>(null);
	busy = $state(false);
	/** Counts readings and choices: the form starts anew with each. */
	turn = $state(0);
	/** What is not sure and was confirmed, by its name. */
	confirmed = $state<string[]>([]);
	readonly read = $derived(this.all[this.which] ?? null);
	readonly open = $derived((this.read?.unsure ?? []).filter((name) => !this.confirmed.includes(name)));

	async look(): Promise<void> {
		await this.#ask({ text: this.text });
	}
	/** The file that it came in: a mail as it was kept, a PDF, HTML or text. */
	async lookInto(file: File): Promise<void> {
		const bytes = new Uint8Array(await file.arrayBuffer());
		let packed = '';
		for (let at = 0; at < bytes.length; at += 0x8000) {
			packed += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
		}
		await this.#ask({ file: btoa(packed) });
	}
	choose(which: number): void {
		this.which = which;
		this.confirmed = [];
		this.turn += 1;
	}
	async #ask(body: Ask): Promise<void> {
		this.busy = true;
		this.fault = null;
		try {
			const found = await done(
				api.POST('/api/v1/accounts/letter', { body: { text: '', file: '', ...body } }),
			);
			this.all = [found, ...(found.more ?? [])];
			this.choose(0);
		} catch (reason) {
			this.fault = faultOf(reason);
		} finally {
			this.busy = false;
		}
	}
}
