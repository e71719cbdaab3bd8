import {
	Fault,
	UNREACHABLE,
	asFault,
	faultOf,
	gone,
	secret,
	type FaultBody,
	type Schemas,
} from '../api/calls';

type Release = Schemas['ReleaseOut'];

/** One archive on its way to the shelf. XMLHttpRequest, because fetch tells no progress of what it sends. */
export class CheckIn {
	file: File | null = $state.raw(null);
	sent = $state(0);
	state: 'idle' | 'sending' | 'reading' | 'done' | 'failed' = $state('idle');
	fault: FaultBody | null = $state.raw(null);
	release: Release | null = $state.raw(null);
	#request: XMLHttpRequest | null = null;

	get busy(): boolean {
		return this.state === 'sending' || this.state === 'reading';
	}

	/** Words of dangers that keep the last archive out and that an administrator may accept; empty when none helps. */
	get words(): string[] {
		const dangers = this.fault?.context?.dangers;
		const words = this.fault?.context?.words;
		if (!Array.isArray(dangers) || !Array.isArray(words)) return [];
		const hopeless = (dangers as { word: string }[]).some((one) => !one.word);
		return hopeless ? [] : words.map(String);
	}

	async start(file: File, accept: string[] = []): Promise<Release | null> {
		this.file = file;
		this.sent = 0;
		this.fault = null;
		this.release = null;
		this.state = 'sending';
		try {
			this.release = await this.#send(file, accept);
			this.state = 'done';
			return this.release;
		} catch (reason) {
			this.fault = faultOf(reason);
			this.state = this.fault ? 'failed' : 'idle';
			return null;
		}
	}

	stop(): void {
		this.#request?.abort();
	}

	#send(file: File, accept: string[]): Promise<Release> {
		return new Promise((kept, refused) => {
			const request = new XMLHttpRequest();
			this.#request = request;
			const words = accept.map((word) => `&accept=${encodeURIComponent(word)}`).join('');
			request.open('POST', `/api/v1/releases?file_name=${encodeURIComponent(file.name)}${words}`);
			request.setRequestHeader('Content-Type', 'application/octet-stream');
			request.setRequestHeader('X-High-Shelf', secret.csrf);
			request.responseType = 'json';
			request.upload.onprogress = (event) => {
				this.sent = event.loaded;
				if (event.loaded === event.total) this.state = 'reading';
			};
			request.onload = () => {
				if (request.status < 400) return kept(request.response as Release);
				if (request.status === 401) gone.tell();
				refused(new Fault(asFault(request.response, request.status), request.status));
			};
			request.onerror = () => refused(new Fault(UNREACHABLE, 0));
			request.onabort = () => refused(new DOMException('called off', 'AbortError'));
			request.send(file);
		});
	}
}
