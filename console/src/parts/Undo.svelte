<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { navigate } from '../router';
	import Dialog from './Dialog.svelte';
	import Fault from './Fault.svelte';

	/** Takes an installation back, or removes what was kept of one: tells what would be done, asks, and goes to the job. */
	let { one }: { one: Schemas['InstallationOut'] } = $props();
	let dialog: Dialog | undefined = $state();
	let plan = $state.raw<Schemas['PlanOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let busy = $state(false);
	const removes = $derived(!!one.taken_back?.kept_in);

	export function ask(): void {
		dialog?.open();
		void look(false);
	}
	async function look(changed_too: boolean): Promise<void> {
		const params = { path: { number: one.id } };
		await during(async () => {
			plan = null;
			plan = await done(
				removes
					? api.POST('/api/v1/installations/{number}/remove', { params })
					: api.POST('/api/v1/installations/{number}/undo', { params, body: { changed_too } }),
			);
		});
	}
	async function go(): Promise<void> {
		await during(async () => {
			const job = await done(
				api.POST('/api/v1/jobs', { body: { plan: plan?.id ?? '', keep: false, in_spite: false } }),
			);
			dialog?.close();
			navigate('/jobs/:id', { params: { id: job.id } });
		});
	}
	async function during(work: () => Promise<void>): Promise<void> {
		busy = true;
		fault = null;
		try {
			await work();
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
</script>

<Dialog
	bind:this={dialog}
	title="{removes ? 'Remove what is kept of' : 'Undo'} {one.application} at {one.address}?"
	wide
>
	{#if plan}
		<p>
			{#if removes}
				This is for good.
			{:else if plan.keeps_copy}
				It has changed since it was proven, or nobody can tell. It is taken down; its files and its database
				are kept until you remove them.
			{:else}
				Nothing has changed since it was proven. What stood there before stands there again.
			{/if}
		</p>
		<p class="small quiet">{plan.there}</p>
		<ol>
			{#each plan.acts as act, index (index)}<li>{act.what}</li>{/each}
		</ol>
	{:else if busy}<p class="quiet">Looking at what stands there…</p>{/if}
	{#if fault}<Fault {fault} />{/if}
	{#snippet ways()}
		<button class="btn btn-lesser" type="button" onclick={() => dialog?.close()}>Leave it</button>
		{#if fault?.code === 'target' && !removes && !plan}
			<button class="btn btn-act" type="button" disabled={busy} onclick={() => void look(true)}
				>Take it down, keep its data</button
			>
		{:else}
			<button class="btn btn-act" type="button" disabled={busy || !plan} onclick={() => void go()}
				>{busy ? 'One moment…' : removes ? 'Remove it' : 'Undo it'}</button
			>
		{/if}
	{/snippet}
</Dialog>

<style>
	ol {
		padding-left: 1.2rem;
		list-style: decimal;
	}
	li {
		overflow-wrap: anywhere;
	}
</style>
