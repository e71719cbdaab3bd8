<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import Confirm from './Confirm.svelte';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';

	/** The sites of an account, and where one path or address is in every view. */
	let { name, turn }: { name: string; turn: number } = $props();
	let sites: Schemas['SiteOut'][] = $state.raw([]);
	let fault = $state.raw<FaultBody | null>(null);
	let refused = $state.raw<FaultBody | null>(null);
	let busy = $state(false);
	let adding = $state(false);
	let address = $state('');
	let root = $state('');
	let reach = $state('');
	let make = $state(false);
	let forget: Confirm | undefined = $state();
	let leaving = $state('');
	let what = $state('');
	let located = $state.raw<Schemas['Located'] | null>(null);
	let lost = $state.raw<FaultBody | null>(null);
	let looking = $state(false);

	$effect(() => {
		void turn;
		void load(name);
	});

	async function load(wanted: string): Promise<void> {
		try {
			const found = await done(
				api.GET('/api/v1/accounts/{name}/sites', { params: { path: { name: wanted } } }),
			);
			if (wanted === name) [sites, fault] = [found.items, null];
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	async function add(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		busy = true;
		refused = null;
		try {
			await done(
				api.POST('/api/v1/accounts/{name}/sites', {
					params: { path: { name } },
					body: { address: address.trim(), root: root.trim(), reach: reach.trim(), make },
				}),
			);
			[address, root, reach, make, adding] = ['', '', '', false, false];
			await load(name);
		} catch (reason) {
			refused = faultOf(reason);
		} finally {
			busy = false;
		}
	}

	async function remove(): Promise<void> {
		await done(
			api.DELETE('/api/v1/accounts/{name}/sites', {
				params: { path: { name }, query: { address: leaving } },
			}),
		);
		await load(name);
	}

	async function locate(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (!what.trim()) return;
		looking = true;
		[located, lost] = [null, null];
		try {
			located = await done(
				api.POST('/api/v1/accounts/{name}/locate', { params: { path: { name } }, body: { what } }),
			);
		} catch (reason) {
			lost = faultOf(reason);
		} finally {
			looking = false;
		}
	}

	const VIEWS = { transfer: 'Transfer login', shell: 'Shell', php: 'PHP', address: 'Address' };
</script>

{#if fault}<Fault {fault} again={() => void load(name)} />{/if}
<ul class="sites">
	{#each sites as site (site.address)}
		<li>
			<span class="code">{site.root || 'root not known yet'}</span>
			<span>
				<a class="code" href={site.address} rel="noreferrer noopener" target="_blank">{site.address}</a>
				{#if site.reach}<span class="small quiet">reached at {site.reach}</span>{/if}
			</span>
			<span class="small quiet"
				>{site.proven_at ? `proven ${momentOf(site.proven_at)}` : 'not proven yet'}</span
			>
			{#if !site.own}
				<button
					class="btn btn-small btn-lesser"
					type="button"
					aria-label="Forget the site {site.address}"
					onclick={() => {
						leaving = site.address;
						forget?.ask();
					}}>Forget</button
				>
			{/if}
		</li>
	{/each}
</ul>
{#if adding}
	<form class="card-paper rows" onsubmit={add}>
		<div class="pair">
			<Field
				label="Address"
				bind:value={address}
				type="url"
				required
				placeholder="https://shop.saltmarsh.example/"
			/>
			<Field
				label="Document root"
				bind:value={root}
				spellcheck="false"
				hint="Looked for when it stays empty: a file is put into the likely folders for a moment, and fetched."
			/>
			<Field label="Reached at" bind:value={reach} spellcheck="false" placeholder="192.0.2.7:443" />
		</div>
		<label class="make">
			<input type="checkbox" class="checkbox" bind:checked={make} />
			<span>It does not exist yet: make the subdomain in the panel first, with that folder.</span>
		</label>
		{#if refused}<Fault fault={refused} />{/if}
		<div class="ways">
			<button class="btn btn-act" type="submit" disabled={busy}
				>{busy ? 'One moment…' : make ? 'Make, prove and keep' : 'Prove and keep'}</button
			>
			<button class="btn btn-lesser" type="button" onclick={() => (adding = false)}>Leave it</button>
		</div>
	</form>
{:else}
	<p>
		<button class="btn btn-small btn-lesser" type="button" onclick={() => (adding = true)}>Add a site</button>
	</p>
{/if}

<form class="where" onsubmit={locate}>
	<Field
		label="Where is it?"
		bind:value={what}
		required
		spellcheck="false"
		placeholder="www/diary/settings.php, or an address"
		hint="A path as any side writes it, or an address: shown as the login, the shell, PHP and visitors see it. What is not found is explained."
	/>
	<button class="btn btn-lesser" type="submit" disabled={looking}>{looking ? 'Looking…' : 'Find it'}</button>
</form>
<div aria-live="polite">
	{#if lost}<Fault fault={lost} />{/if}
	{#if located}
		<dl>
			{#each located.views as view (view.view)}
				<dt>{VIEWS[view.view]}</dt>
				<dd><span class="code">{view.path}</span> <span class="small quiet">{view.how}</span></dd>
			{/each}
		</dl>
		<ul class="told">
			{#each located.told as line (line)}<li>{line}</li>{/each}
		</ul>
	{/if}
</div>
<Confirm
	bind:this={forget}
	title="Forget this site?"
	text="{leaving} is taken off the list. Nothing on the host is touched."
	word="Forget it"
	act={remove}
/>

<style>
	.sites {
		background: var(--card);
		border: 1px solid var(--line);
		margin-bottom: 0.6rem;
	}
	.sites li {
		display: grid;
		grid-template-columns: minmax(6rem, 1fr) minmax(0, 2.4fr) auto auto;
		gap: 0.1rem 1rem;
		padding: 0.4rem 0.9rem;
		border-bottom: 1px solid var(--line);
		align-items: baseline;
		overflow-wrap: anywhere;
	}
	.sites li:last-child {
		border-bottom: 0;
	}
	.pair {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(16rem, 100%), 1fr));
		gap: 0.7rem 1rem;
	}
	.ways {
		display: flex;
		gap: 0.6rem;
		flex-wrap: wrap;
	}
	.make {
		display: flex;
		gap: 0.5rem;
		align-items: start;
	}
	.where {
		display: grid;
		grid-template-columns: minmax(0, 34rem) auto;
		gap: 0.8rem;
		align-items: start;
		margin-top: 1rem;
	}
	.where button {
		margin-top: 1.55rem;
		justify-self: start;
	}
	dl {
		display: grid;
		grid-template-columns: minmax(7rem, max-content) minmax(0, 1fr);
		gap: 0.2rem 1rem;
		margin-top: 0.7rem;
	}
	dt {
		color: var(--soft);
	}
	dd {
		overflow-wrap: anywhere;
	}
	.told {
		margin-top: 0.4rem;
		border-left: 4px solid var(--line);
		padding-left: 0.8rem;
		overflow-wrap: anywhere;
	}
	@media (max-width: 620px) {
		.sites li,
		.where,
		dl {
			grid-template-columns: minmax(0, 1fr);
		}
		.where button {
			margin-top: 0;
			justify-self: start;
		}
	}
</style>
