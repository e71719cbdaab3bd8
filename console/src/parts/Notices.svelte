<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import Confirm from './Confirm.svelte';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';

	/** Where people are told of what happens while nobody looks. */
	type Place = Schemas['PlaceOut'];
	type What = Place['what'][number];
	const WORDS: Record<What, string> = {
		question: 'a job waits for an answer',
		failed: 'a job failed',
		wrong: 'something that stood has changed for the worse',
		done: 'a job is done',
	};
	const WHATS = Object.keys(WORDS) as What[];
	const USUAL: What[] = ['question', 'failed', 'wrong'];
	const PORTS = { tls: '465', starttls: '587', none: '25' };
	type Security = keyof typeof PORTS;
	let places = $state.raw<Place[] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let refused = $state.raw<FaultBody | null>(null);
	let form = $state<'' | 'webhook' | 'mail'>('');
	let [address, to, sender, server, port, login, password] = $state(['', '', '', '', '', '', '']);
	let security: Security = $state('tls');
	let what = $state<What[]>([...USUAL]);
	let busy = $state(false);
	let key = $state('');
	let tried = $state.raw<{ id: string; told: string } | null>(null);
	let leaving = $state.raw<Place | null>(null);
	let forget: Confirm | undefined = $state();

	$effect(() => void load());

	async function load(): Promise<void> {
		try {
			[places, fault] = [(await done(api.GET('/api/v1/notices'))).items, null];
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	async function add(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		[busy, refused, key] = [true, null, ''];
		try {
			if (form === 'webhook') {
				const body = { address: address.trim(), what, account: '', key: '' };
				key = (await done(api.POST('/api/v1/notices/webhooks', { body }))).key;
			} else {
				await done(
					api.POST('/api/v1/notices/mailboxes', {
						body: {
							to: to.trim(),
							sender: sender.trim(),
							host: server.trim(),
							port: Number(port || PORTS[security]),
							security,
							login: login.trim(),
							password,
							what,
							account: '',
						},
					}),
				);
			}
			[address, to, sender, server, port, login, password, form] = ['', '', '', '', '', '', '', ''];
			what = [...USUAL];
			await load();
		} catch (reason) {
			refused = faultOf(reason);
		} finally {
			busy = false;
		}
	}

	const at = (one: Place) => ({ params: { path: { number: one.id } } });

	async function attempt(one: Place): Promise<void> {
		[busy, refused, tried] = [true, null, null];
		try {
			const found = await done(api.POST('/api/v1/notices/{number}/try', at(one)));
			tried = {
				id: one.id,
				told: found.arrived ? 'A trial was taken.' : `It did not arrive: ${found.error}`,
			};
		} catch (reason) {
			refused = faultOf(reason);
		} finally {
			busy = false;
		}
	}

	async function silence(one: Place): Promise<void> {
		try {
			await done(api.PATCH('/api/v1/notices/{number}', { ...at(one), body: { silent: !one.silent } }));
			await load();
		} catch (reason) {
			refused = faultOf(reason);
		}
	}

	async function remove(): Promise<void> {
		if (leaving) await done(api.DELETE('/api/v1/notices/{number}', at(leaving)));
		await load();
	}

	function last(one: Place): string {
		if (one.silent) return 'silent';
		if (!one.last_state) return 'nothing was sent yet';
		const word = {
			sent: 'the last one was sent',
			waiting: 'the last one waits',
			'given-up': 'the last one was given up',
		};
		return `${word[one.last_state]}${one.last_at ? ` ${momentOf(one.last_at)}` : ''}${one.last_error ? `: ${one.last_error}` : ''}`;
	}
</script>

{#if fault}<Fault {fault} again={() => void load()} />{/if}
{#if refused}<div class="said"><Fault fault={refused} /></div>{/if}
{#if key}
	<p class="card-paper key" role="status">
		The key that calls are sealed with, shown this once: <span class="code">{key}</span>
	</p>
{/if}
{#if places?.length}
	<ul>
		{#each places as one (one.id)}
			<li>
				<span class="code">{one.target}</span>
				<span>
					{one.what.map((w) => WORDS[w]).join('; ')}{one.account ? ` (only ${one.account})` : ''}
					<span class="small quiet">{one.server ? `by ${one.server}; ` : ''}{last(one)}</span>
					{#if tried?.id === one.id}<span class="small" role="status">{tried.told}</span>{/if}
				</span>
				<span class="ways">
					<button
						class="btn btn-small btn-lesser"
						type="button"
						disabled={busy}
						aria-label="Try {one.target}"
						onclick={() => void attempt(one)}>Try</button
					>
					<button
						class="btn btn-small btn-lesser"
						type="button"
						aria-label="{one.silent ? 'Send again' : 'Silence'}: {one.target}"
						onclick={() => void silence(one)}>{one.silent ? 'Send again' : 'Silence'}</button
					>
					<button
						class="btn btn-small btn-lesser"
						type="button"
						aria-label="Remove {one.target}"
						onclick={() => {
							leaving = one;
							forget?.ask();
						}}>Remove</button
					>
				</span>
			</li>
		{/each}
	</ul>
{:else if places}
	<p class="quiet">Nobody is told anything: questions wait until somebody looks.</p>
{/if}
{#if form}
	<form class="card-paper rows" onsubmit={add}>
		<div class="pair">
			{#if form === 'webhook'}
				<Field
					label="Address"
					bind:value={address}
					type="url"
					required
					placeholder="https://chat.saltmarsh.example/in"
					hint="Called with JSON, sealed with a key that is shown once."
				/>
			{:else}
				<Field label="To" bind:value={to} type="email" required placeholder="keeper@saltmarsh.example" />
				<Field label="From" bind:value={sender} type="email" required placeholder="shelf@saltmarsh.example" />
				<Field label="Mail server" bind:value={server} required spellcheck="false" />
				<label class="kind">
					<span>Encryption</span>
					<select class="select" bind:value={security}>
						<option value="tls">TLS from the first byte</option>
						<option value="starttls">STARTTLS</option>
						<option value="none">None, in our own network</option>
					</select>
				</label>
				<Field label="Port" bind:value={port} inputmode="numeric" hint="{PORTS[security]} when empty." />
				<Field
					label="Login"
					bind:value={login}
					spellcheck="false"
					autocomplete="off"
					hint="Where it wants one."
				/>
				<Field label="Password" bind:value={password} type="password" autocomplete="off" />
			{/if}
		</div>
		<fieldset>
			<legend>When</legend>
			{#each WHATS as one (one)}
				<label class="make">
					<input type="checkbox" class="checkbox" value={one} bind:group={what} />
					<span>{WORDS[one]}</span>
				</label>
			{/each}
		</fieldset>
		<div class="ways">
			<button class="btn btn-act" type="submit" disabled={busy || what.length === 0}>Add it</button>
			<button class="btn btn-lesser" type="button" onclick={() => (form = '')}>Leave it</button>
		</div>
	</form>
{:else if places}
	<p class="ways">
		<button class="btn btn-small btn-lesser" type="button" onclick={() => (form = 'webhook')}
			>Have an address called</button
		>
		<button class="btn btn-small btn-lesser" type="button" onclick={() => (form = 'mail')}
			>Have mail sent</button
		>
	</p>
{/if}
<Confirm
	bind:this={forget}
	title="Send nothing to {leaving?.target} any more?"
	text="What is on its way there goes too."
	word="Remove it"
	act={remove}
/>

<style>
	ul {
		background: var(--card);
		border: 1px solid var(--line);
		margin-bottom: 0.6rem;
	}
	li {
		display: grid;
		grid-template-columns: minmax(8rem, 1fr) minmax(0, 2fr) auto;
		gap: 0.3rem 1rem;
		padding: 0.45rem 0.8rem;
		align-items: center;
		overflow-wrap: anywhere;
	}
	li + li {
		border-top: 1px solid var(--line);
	}
	.said,
	.key {
		margin-bottom: 0.6rem;
		overflow-wrap: anywhere;
	}
	.rows {
		display: grid;
		gap: 0.8rem;
	}
	.pair {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(14rem, 100%), 1fr));
		gap: 0.8rem;
		align-items: start;
	}
	.kind {
		display: grid;
		gap: 0.2rem;
	}
	.make {
		display: flex;
		gap: 0.5rem;
		align-items: center;
	}
	.ways {
		display: flex;
		gap: 0.5rem;
		flex-wrap: wrap;
	}
	@media (max-width: 720px) {
		li {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
