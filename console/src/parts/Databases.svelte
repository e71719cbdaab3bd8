<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { bytes, momentOf } from '../lib/say';
	import { navigate } from '../router';
	import Confirm from './Confirm.svelte';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';
	import Secret from './Secret.svelte';

	/** The databases of an account, what can be done with each, and the dumps that were taken of them. */
	let { name }: { name: string } = $props();
	type Database = Schemas['DatabaseOut'];
	type Job = Schemas['JobOut'];
	let databases = $state.raw<Database[] | null>(null);
	let unasked = $state('');
	let dumps = $state.raw<Schemas['DumpOut'][]>([]);
	let fault = $state.raw<FaultBody | null>(null);
	let refused = $state.raw<FaultBody | null>(null);
	let busy = $state('');
	let form = $state<'' | 'make' | 'known'>('');
	let [own, user, host, port, password] = $state(['', '', '', '', '']);
	let kind: 'mariadb' | 'postgresql' = $state('mariadb');
	let shown = $state.raw<{ of: string; text: string } | null>(null);
	let leaving = $state.raw<Database | null>(null);
	let letting = $state.raw<Schemas['DumpOut'] | null>(null);
	let [forget, drop, lose]: (Confirm | undefined)[] = $state([undefined, undefined, undefined]);

	$effect(() => void load(name));

	async function load(account: string): Promise<void> {
		try {
			const params = { path: { account } };
			const [found, taken] = await Promise.all([
				done(api.GET('/api/v1/accounts/{account}/databases', { params })),
				done(api.GET('/api/v1/dumps', { params: { query: { account, limit: 50 } } })),
			]);
			if (account === name)
				[databases, unasked, dumps, fault] = [found.items, found.unasked, taken.items, null];
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	/** Every one of these is a job: its page tells how it goes. */
	async function begin(what: string, order: () => Promise<Job>): Promise<void> {
		[busy, refused] = [what, null];
		try {
			await navigate('/jobs/:id', { params: { id: (await order()).id } });
		} catch (reason) {
			refused = faultOf(reason);
		} finally {
			busy = '';
		}
	}

	const at = (one: Database) => ({ params: { path: { account: name, name: one.name } } });

	function make(event: SubmitEvent): void {
		event.preventDefault();
		const path = { account: name };
		void begin('make', () =>
			form === 'make'
				? done(
						api.POST('/api/v1/accounts/{account}/databases', {
							params: { path },
							body: { kind, name: own.trim(), user: '' },
						}),
					)
				: done(
						api.POST('/api/v1/accounts/{account}/databases/known', {
							params: { path },
							body: {
								kind,
								name: own.trim(),
								user: user.trim(),
								host: host.trim(),
								port: port.trim(),
								password,
							},
						}),
					),
		);
	}

	const attempt = (one: Database) =>
		begin(one.name, () => done(api.POST('/api/v1/accounts/{account}/databases/{name}/try', at(one))));
	const copy = (one: Database) =>
		begin(one.name, () => done(api.POST('/api/v1/accounts/{account}/databases/{name}/export', at(one))));

	function fill(one: Database, event: Event & { currentTarget: HTMLInputElement }): void {
		const file = event.currentTarget.files?.[0];
		event.currentTarget.value = '';
		if (!file) return;
		void begin(one.name, async () => {
			const brought = await done(
				api.POST('/api/v1/dumps', {
					params: { query: { file_name: file.name } },
					body: file as unknown as string,
					bodySerializer: (body: unknown) => body as never,
					headers: { 'Content-Type': 'application/octet-stream' },
				}),
			);
			return done(
				api.POST('/api/v1/accounts/{account}/databases/{name}/import', {
					...at(one),
					body: { dump: brought.id, keep: false },
				}),
			);
		});
	}

	async function reveal(one: Database): Promise<void> {
		try {
			const found = await done(api.POST('/api/v1/accounts/{account}/databases/{name}/reveal', at(one)));
			shown = { of: one.name, text: found.secrets.database ?? '' };
			// As with all secrets: a minute, then it is covered again.
			setTimeout(() => (shown = null), 60_000);
		} catch (reason) {
			refused = faultOf(reason);
		}
	}

	async function letGo(): Promise<void> {
		if (leaving) await done(api.DELETE('/api/v1/accounts/{account}/databases/{name}', at(leaving)));
		await load(name);
	}

	async function dropped(): Promise<void> {
		if (!leaving) return;
		const plan = await done(api.POST('/api/v1/accounts/{account}/databases/{name}/drop', at(leaving)));
		const job = await done(
			api.POST('/api/v1/jobs', { body: { plan: plan.id, keep: false, in_spite: false } }),
		);
		await navigate('/jobs/:id', { params: { id: job.id } });
	}

	async function lost(): Promise<void> {
		if (letting)
			await done(api.DELETE('/api/v1/dumps/{number}', { params: { path: { number: letting.id } } }));
		await load(name);
	}

	function whose(one: Database): string {
		if (one.installation) return `of ${one.application}`;
		if (!one.number) return 'nobody here knows its login';
		return one.made_here ? 'made here' : 'filed here';
	}

	function tried(one: Database): string {
		if (!one.number) return '';
		return one.proven && one.tried_at ? `login worked ${momentOf(one.tried_at)}` : 'login not proven';
	}
</script>

{#if fault}<Fault {fault} again={() => void load(name)} />{/if}
{#if refused}<div class="said"><Fault fault={refused} /></div>{/if}
{#if databases === null && !fault}<p class="quiet">Looking in the books and in the panel…</p>{/if}
{#if databases?.length}
	<ul>
		{#each databases as one (one.name)}
			<li>
				<span class="code">{one.name}</span>
				<span>
					{one.kind}{one.host ? ` at ${one.host}:${one.port}` : ''}{one.user ? `, user ${one.user}` : ''}
					<span class="small quiet">
						{whose(one)}{tried(one) ? `; ${tried(one)}` : ''}{one.there === false
							? '; the panel does not list it'
							: ''}
					</span>
					{#if one.number}
						<Secret
							text={shown?.of === one.name ? shown.text : undefined}
							show={() => void reveal(one)}
							what="the password of {one.name}"
						/>
					{/if}
				</span>
				<span class="ways">
					{#if one.user}
						<button
							class="btn btn-small btn-lesser"
							type="button"
							disabled={busy !== ''}
							aria-label="Try the login of {one.name}"
							onclick={() => void attempt(one)}>Try</button
						>
						<button
							class="btn btn-small btn-lesser"
							type="button"
							disabled={busy !== ''}
							aria-label="Take a copy of {one.name}"
							onclick={() => void copy(one)}>Copy</button
						>
						<label class="btn btn-small btn-lesser file">
							<input
								type="file"
								accept=".sql,.gz,.bz2,.xz,.zst"
								aria-label="Fill {one.name} from a dump"
								disabled={busy !== ''}
								onchange={(event) => fill(one, event)}
							/>
							{busy === one.name ? 'One moment…' : 'Fill from a dump'}
						</label>
					{/if}
					{#if one.made_here}
						<button
							class="btn btn-small btn-lesser"
							type="button"
							aria-label="Drop {one.name}"
							onclick={() => {
								leaving = one;
								drop?.ask();
							}}>Drop</button
						>
					{:else if one.number}
						<button
							class="btn btn-small btn-lesser"
							type="button"
							aria-label="Forget {one.name}"
							onclick={() => {
								leaving = one;
								forget?.ask();
							}}>Forget</button
						>
					{/if}
				</span>
			</li>
		{/each}
	</ul>
{:else if databases}
	<p class="quiet">No database is known. Jobs make their own; here one is made for something else.</p>
{/if}
{#if databases && unasked}<p class="small quiet">Only those of the books: {unasked}</p>{/if}
{#if form}
	<form class="card-paper rows" onsubmit={make}>
		<div class="pair">
			<label class="kind">
				<span>Kind</span>
				<select class="select" bind:value={kind}>
					<option value="mariadb">MariaDB or MySQL</option>
					<option value="postgresql">PostgreSQL</option>
				</select>
			</label>
			<Field
				label="Name"
				bind:value={own}
				required={form === 'known'}
				spellcheck="false"
				autocomplete="off"
				hint={form === 'make'
					? 'Before the panel adds to it; made up when it stays empty.'
					: 'Its whole name, as the panel shows it.'}
			/>
			{#if form === 'known'}
				<Field label="User" bind:value={user} required spellcheck="false" autocomplete="off" />
				<Field label="Password" bind:value={password} type="password" required autocomplete="off" />
				<Field
					label="Server"
					bind:value={host}
					spellcheck="false"
					hint="As PHP there sees it; the account's when empty."
				/>
				<Field label="Port" bind:value={port} inputmode="numeric" hint="The usual one when empty." />
			{/if}
		</div>
		<div class="ways">
			<button class="btn btn-act" type="submit" disabled={busy !== ''}
				>{form === 'make' ? 'Make it and prove it' : 'Try it and file it'}</button
			>
			<button class="btn btn-lesser" type="button" onclick={() => (form = '')}>Leave it</button>
		</div>
	</form>
{:else if databases}
	<p class="ways">
		<button class="btn btn-small btn-lesser" type="button" onclick={() => (form = 'make')}
			>Make a database</button
		>
		<button class="btn btn-small btn-lesser" type="button" onclick={() => (form = 'known')}
			>File the login of one that is there</button
		>
	</p>
{/if}
{#if dumps.length}
	<h3>Copies that lie here</h3>
	<ul>
		{#each dumps as one (one.id)}
			<li>
				<a class="code" href="/api/v1/dumps/{one.id}/file" download={one.name}>{one.name}</a>
				<span class="small quiet">
					{bytes(one.size_bytes)}, {one.job ? 'taken' : 'brought'}
					{momentOf(one.created_at)}
				</span>
				<span class="ways">
					<button
						class="btn btn-small btn-lesser"
						type="button"
						aria-label="Remove the copy {one.name}"
						onclick={() => {
							letting = one;
							lose?.ask();
						}}>Remove</button
					>
				</span>
			</li>
		{/each}
	</ul>
{/if}
<Confirm
	bind:this={forget}
	title="Forget the database {leaving?.name}?"
	text="Its password leaves the strongbox for good. The database stays as it is."
	word="Forget it"
	act={letGo}
/>
<Confirm
	bind:this={drop}
	title="Drop the database {leaving?.name}?"
	text="The database goes with everything in it, and its user too. Nothing of it is kept: take a copy first where somebody may want it."
	word="Drop it"
	act={dropped}
/>
<Confirm
	bind:this={lose}
	title="Remove the copy {letting?.name}?"
	text="It is removed from here for good. The database that it was taken of stays as it is."
	word="Remove it"
	act={lost}
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
	h3 {
		margin: 1rem 0 0.4rem;
	}
	.said {
		margin-bottom: 0.6rem;
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
	.ways {
		display: flex;
		gap: 0.5rem;
		flex-wrap: wrap;
	}
	.file {
		position: relative;
		overflow: hidden;
	}
	.file input {
		position: absolute;
		inset: 0;
		opacity: 0;
		cursor: pointer;
	}
	.file:focus-within {
		outline: 2px solid currentColor;
		outline-offset: 2px;
	}
	@media (max-width: 720px) {
		li {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
