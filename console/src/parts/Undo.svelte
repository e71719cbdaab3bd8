<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { navigate } from '../router';
	import Dialog from './Dialog.svelte';
	import Fault from './Fault.svelte';

	/** Takes an installation back, removes what was kept of one or brings it back: tells what would be done, asks, and goes to the job. */
	let { one, way }: { one: Schemas['InstallationOut']; way: 'undo' | 'remove' | 'restore' } = $props();
	let dialog: Dialog | undefined = $state();
	let plan = $state.raw<Schemas['PlanOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let busy = $state(false);
	let keep = $state(false);
	const WORDS = {
		undo: { title: 'Undo', act: 'Undo it' },
		remove: { title: 'Remove what is kept of', act: 'Remove it' },
		restore: { title: 'Bring back', act: 'Bring it back' },
	};

	export function ask(): void {
		dialog?.open();
		void look(false);
	}
	async function look(changed_too: boolean): Promise<void> {
		const params = { path: { number: one.id } };
		await during(async () => {
			plan = null;
			plan = await done(
				way === 'undo'
					? api.POST('/api/v1/installations/{number}/undo', { params, body: { changed_too, keep } })
					: way === 'remove'
						? api.POST('/api/v1/installations/{number}/remove', { params })
						: api.POST('/api/v1/installations/{number}/restore', { params }),
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

<Dialog bind:this={dialog} title="{WORDS[way].title} {one.application} at {one.address}?" wide>
	{#if plan}
		<p>
			{#if way === 'remove'}
				This is for good.
			{:else if way === 'restore'}
				Its files go back to their place, then everything is looked at once more. Nothing that stands there is
				overwritten.
			{:else if plan.keeps_copy}
				{#if !keep}It has changed since it was proven, or nobody can tell.{/if}
				It is taken down; its files and its database are kept until you bring it back or remove them.
			{:else}
				Nothing has changed since it was proven. What stood there before stands there again.
			{/if}
		</p>
		<p class="small quiet">{plan.there}</p>
		<ol>
			{#each plan.acts as act, index (index)}<li>{act.what}</li>{/each}
		</ol>
	{:else if busy}<p class="quiet">Looking at what stands there…</p>{/if}
	{#if way === 'undo' && (plan || (fault?.code === 'target' && keep))}
		<label class="kept">
			<input type="checkbox" bind:checked={keep} disabled={busy} onchange={() => void look(false)} />
			Keep its files and its database, so that it can be brought back
		</label>
	{/if}
	{#if fault}<Fault {fault} />{/if}
	{#snippet ways()}
		<button class="btn btn-lesser" type="button" onclick={() => dialog?.close()}>Leave it</button>
		{#if fault?.code === 'target' && way === 'undo' && !plan}
			<button class="btn btn-act" type="button" disabled={busy} onclick={() => void look(true)}
				>Take it down, keep its data</button
			>
		{:else}
			<button class="btn btn-act" type="button" disabled={busy || !plan} onclick={() => void go()}
				>{busy ? 'One moment…' : WORDS[way].act}</button
			>
		{/if}
	{/snippet}
</Dialog>

<style>
	.kept {
		display: flex;
		gap: 0.5rem;
		align-items: baseline;
		margin-top: 0.75rem;
	}
	ol {
		padding-left: 1.2rem;
		list-style: decimal;
	}
	li {
		overflow-wrap: anywhere;
	}
</style>
