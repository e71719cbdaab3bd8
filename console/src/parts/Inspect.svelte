<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import Fault from './Fault.svelte';

	/** What stands on the host beside what the release holds, asked for by a button. */
	let { id }: { id: string } = $props();
	let found = $state.raw<Schemas['InspectionOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let looking = $state(false);

	async function look(read: boolean): Promise<void> {
		looking = true;
		fault = null;
		try {
			found = await done(
				api.POST('/api/v1/installations/{number}/inspect', {
					params: { path: { number: id } },
					body: { read, shown: 60 },
				}),
			);
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			looking = false;
		}
	}
	const lists = $derived(
		found
			? [
					{ title: 'Changed', count: found.changed_count, items: found.changed },
					{ title: 'Missing', count: found.missing_count, items: found.missing },
					{ title: 'Extra', count: found.extra_count, items: found.extra },
				].filter((list) => list.count > 0)
			: [],
	);
</script>

<section class="card-paper" aria-labelledby="inspect">
	<div class="head">
		<h2 id="inspect">Beside its release</h2>
		<button
			class="btn btn-small btn-lesser"
			type="button"
			disabled={looking}
			onclick={() => void look(false)}
		>
			{looking ? 'Comparing…' : found ? 'Compare again' : 'Compare the files on the host'}
		</button>
	</div>
	{#if fault}<Fault {fault} />{/if}
	<div aria-live="polite">
		{#if found}
			<p class:well={!found.unexplained} class:heed={found.unexplained > 0} class="verdict">
				{found.unexplained
					? `${found.unexplained.toLocaleString('en')} ${found.unexplained === 1 ? 'difference is' : 'differences are'} not explained.`
					: 'Nothing is unexplained.'}
				<span class="quiet">{found.same.toLocaleString('en')} files are as in the release ({found.how}).</span
				>
			</p>
			{#if found.unread}
				<p class="small quiet">
					{found.unread.toLocaleString('en')} of them were compared by size alone.
					<button
						class="btn btn-small btn-lesser"
						type="button"
						disabled={looking}
						onclick={() => void look(true)}>Read every file back</button
					>
				</p>
			{/if}
			<div class="lists">
				{#each lists as list (list.title)}
					<div>
						<h3>{list.title}, {list.count.toLocaleString('en')}</h3>
						<ul>
							{#each list.items as one (one.path)}
								<li class:heed={!one.why}>
									<span class="code">{one.path}</span>{#if (one.count ?? 1) > 1}
										<span class="quiet small">{one.count} files</span>{/if}
									<span class="quiet small">{one.why || 'not explained'}</span>
								</li>
							{/each}
						</ul>
						{#if list.count > list.items.length}<p class="small quiet">
								and {(list.count - list.items.length).toLocaleString('en')} more;
								<span class="code">highshelf installation inspect {id}</span> tells all
							</p>{/if}
					</div>
				{/each}
			</div>
		{:else if !looking && !fault}
			<p class="quiet small">
				Which files were changed, are missing or came in addition. Nothing on the host is changed by it.
			</p>
		{/if}
	</div>
</section>

<style>
	.head {
		display: flex;
		flex-wrap: wrap;
		justify-content: space-between;
		gap: 0.5rem 1rem;
		margin-bottom: 0.45rem;
	}
	.verdict {
		padding-left: 0.8rem;
		border-left: 4px solid var(--line);
		font-weight: 600;
	}
	.verdict span {
		font-weight: 400;
	}
	.verdict.well {
		border-color: var(--well);
	}
	.verdict.heed {
		border-color: var(--heed);
	}
	.lists {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(20rem, 100%), 1fr));
		gap: 0.8rem 2rem;
		margin-top: 0.6rem;
	}
	li {
		padding: 0.12rem 0 0.12rem 0.8rem;
		border-left: 2px solid var(--line);
		overflow-wrap: anywhere;
	}
	li.heed {
		border-color: var(--heed);
	}
</style>
