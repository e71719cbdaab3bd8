<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import Choose, { type Choice } from './Choose.svelte';
	import Confirm from './Confirm.svelte';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';

	/** The licence keys that are filed for an account: for which application, who uses them. */
	let { name }: { name: string } = $props();
	let licences = $state.raw<Schemas['LicenceOut'][]>([]);
	let fault = $state.raw<FaultBody | null>(null);
	let refused = $state.raw<FaultBody | null>(null);
	let adding = $state(false);
	let busy = $state(false);
	let [release, key] = $state(['', '']);
	let several = $state(false);
	let shown = $state.raw<{ id: string; key: string } | null>(null);
	let leaving = $state('');
	let forget: Confirm | undefined = $state();

	$effect(() => void load(name));

	async function load(account: string): Promise<void> {
		try {
			const found = await done(api.GET('/api/v1/licences', { params: { query: { account, limit: 500 } } }));
			if (account === name) [licences, fault] = [found.items, null];
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	async function releases(q: string): Promise<{ items: Choice[]; total: number }> {
		try {
			const found = await done(api.GET('/api/v1/releases', { params: { query: { q, limit: 60 } } }));
			const items = found.items.map((r) => ({ value: r.sha256, title: `${r.name} ${r.version}`.trim() }));
			return { items, total: found.total };
		} catch (reason) {
			refused = faultOf(reason);
			return { items: [], total: 0 };
		}
	}

	async function add(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		[busy, refused] = [true, null];
		try {
			const body = { release, account: name, key, several };
			await done(api.POST('/api/v1/licences', { body }));
			[release, key, several, adding] = ['', '', false, false];
			await load(name);
		} catch (reason) {
			refused = faultOf(reason);
		} finally {
			busy = false;
		}
	}

	async function reveal(id: string): Promise<void> {
		try {
			const path = { number: id };
			const found = await done(api.POST('/api/v1/licences/{number}/reveal', { params: { path } }));
			shown = { id, key: found.secrets.licence ?? '' };
			// As with all secrets: a minute, then it is covered again.
			setTimeout(() => (shown = null), 60_000);
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	async function remove(): Promise<void> {
		await done(api.DELETE('/api/v1/licences/{number}', { params: { path: { number: leaving } } }));
		await load(name);
	}
</script>

{#if fault}<Fault {fault} again={() => void load(name)} />{/if}
{#if licences.length}
	<ul>
		{#each licences as one (one.id)}
			<li>
				<span>{one.application}</span>
				<span class="code">{shown?.id === one.id ? shown.key : one.ending}</span>
				<span class="small quiet">
					{one.used_by.length ? `used by ${one.used_by.join(', ')}` : 'free'}{one.several
						? ', for several installations'
						: ''}
				</span>
				<span class="ways">
					<button class="btn btn-small btn-lesser" type="button" onclick={() => void reveal(one.id)}
						>Show</button
					>
					<button
						class="btn btn-small btn-lesser"
						type="button"
						aria-label="Forget the key {one.ending}"
						onclick={() => {
							leaving = one.id;
							forget?.ask();
						}}>Forget</button
					>
				</span>
			</li>
		{/each}
	</ul>
{:else if !adding}
	<p class="quiet">No key is filed for this account. Where an installer wants one, the job asks.</p>
{/if}
{#if adding}
	<form class="card-paper rows" onsubmit={add}>
		<Choose
			label="Application"
			bind:value={release}
			ask={releases}
			chosen={() => undefined}
			none="The shelf is empty: check a release in first."
			required
		/>
		<Field
			label="Licence key"
			bind:value={key}
			required
			spellcheck="false"
			autocomplete="off"
			hint="Sealed at once. A job of this application on this account takes it by itself."
		/>
		<label class="make">
			<input type="checkbox" class="checkbox" bind:checked={several} />
			<span>It may be used for more than one installation.</span>
		</label>
		{#if refused}<Fault fault={refused} />{/if}
		<div class="ways">
			<button class="btn btn-act" type="submit" disabled={busy}>File it</button>
			<button class="btn btn-lesser" type="button" onclick={() => (adding = false)}>Leave it</button>
		</div>
	</form>
{:else}
	<p>
		<button class="btn btn-small btn-lesser" type="button" onclick={() => (adding = true)}>File a key</button>
	</p>
{/if}
<Confirm
	bind:this={forget}
	title="Forget this licence key?"
	text="The key is taken out of the strongbox for good. What was installed with it stays as it is."
	word="Forget it"
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
		grid-template-columns: minmax(7rem, 1fr) minmax(8rem, 2fr) 2fr auto;
		gap: 0.3rem 1rem;
		padding: 0.45rem 0.8rem;
		align-items: center;
		overflow-wrap: anywhere;
	}
	li + li {
		border-top: 1px solid var(--line);
	}
	.rows {
		display: grid;
		gap: 0.8rem;
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
	@media (max-width: 640px) {
		li {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
