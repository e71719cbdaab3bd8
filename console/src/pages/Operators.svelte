<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { ago, momentOf } from '../lib/say';
	import Confirm from '../parts/Confirm.svelte';
	import Fault from '../parts/Fault.svelte';
	import Field from '../parts/Field.svelte';
	import Head from '../parts/Head.svelte';
	import Notices from '../parts/Notices.svelte';
	import { session } from '../state/session.svelte';

	let people: Schemas['OperatorOut'][] = $state.raw([]);
	let browsers: Schemas['SessionOut'][] = $state.raw([]);
	let records: Schemas['RecordOut'][] = $state.raw([]);
	let made = $state.raw<Schemas['InvitationOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let name = $state('');
	let chosen = $state('');
	let forget: Confirm | undefined = $state();

	$effect(() => void load());

	async function load(): Promise<void> {
		try {
			const [who, where, what] = await Promise.all([
				done(api.GET('/api/v1/operators')),
				done(api.GET('/api/v1/sessions')),
				done(api.GET('/api/v1/records', { params: { query: { limit: 20 } } })),
			]);
			[people, browsers, records, fault] = [who.items, where.items, what.items, null];
		} catch (reason) {
			fault = faultOf(reason);
		}
	}
	async function tried(act: () => Promise<unknown>): Promise<void> {
		fault = null;
		try {
			await act();
			await load();
		} catch (reason) {
			fault = faultOf(reason);
		}
	}
	async function invite(whom: string): Promise<void> {
		made = null;
		await tried(async () => {
			made = await done(api.POST('/api/v1/operators/invite', { body: { name: whom } }));
			name = '';
		});
	}
	const end = (id: string): Promise<void> =>
		tried(() => done(api.DELETE('/api/v1/sessions/{number}', { params: { path: { number: id } } })));
	async function remove(): Promise<void> {
		await done(api.DELETE('/api/v1/operators/{name}', { params: { path: { name: chosen } } }));
		await load();
	}
	/** What a browser calls itself, as far as it helps to tell one from another. */
	function told(agent: string): string {
		const found = /(Firefox|Edg|Chrome|Version)\/(\d+)/.exec(agent);
		const system = /(Windows|Mac OS X|Android|iPhone|iPad|Linux)/.exec(agent)?.[1];
		return (
			[found?.[1]?.replace('Version', 'Safari').replace('Edg', 'Edge'), found?.[2], system && `on ${system}`]
				.filter(Boolean)
				.join(' ') || agent
		);
	}
</script>

<Head title="Operators" />
{#if fault}<div class="gap"><Fault {fault} /></div>{/if}
<div class="two">
	<section aria-labelledby="people">
		<h2 id="people">Who may sign in</h2>
		<ul>
			{#each people as one (one.name)}
				<li>
					<div>
						<strong>{one.name}</strong>{one.name === session.operator ? ' (you)' : ''}
						<p class="small quiet">
							since {momentOf(one.created_at)}, {one.signed_in_at
								? `signed in ${ago(one.signed_in_at)}`
								: 'never signed in'}
						</p>
					</div>
					<div class="ways">
						{#if one.name === session.operator}
							<button class="btn btn-small btn-lesser" type="button" onclick={() => void invite(one.name)}
								>New password</button
							>
						{/if}
						{#if people.length > 1}
							<button
								class="btn btn-small btn-lesser"
								type="button"
								onclick={() => {
									chosen = one.name;
									forget?.ask();
								}}>Forget<span class="sr-only"> {one.name}</span></button
							>
						{/if}
					</div>
				</li>
			{/each}
		</ul>
		<form
			class="card-paper rows invite"
			onsubmit={(event) => {
				event.preventDefault();
				void invite(name.trim());
			}}
		>
			<Field
				label="Invite somebody by the name"
				bind:value={name}
				required
				spellcheck="false"
				autocapitalize="none"
				hint="They get a link that works once, for a day, and choose the password."
			/>
			<button class="btn btn-lesser" type="submit">Make a link</button>
			<div aria-live="polite">
				{#if made}
					<p>
						For <strong>{made.operator}</strong>, until {momentOf(made.ends_at)}. It is shown now and never
						again:
					</p>
					<p class="code link">{made.link}</p>
				{/if}
			</div>
		</form>
	</section>
	<section aria-labelledby="browsers">
		<h2 id="browsers">Browsers that are signed in</h2>
		<ul>
			{#each browsers as one (one.id)}
				<li>
					<div>
						<strong>{one.operator}</strong>
						{told(one.agent)}{one.id === session.id ? ' (this one)' : ''}
						<p class="small quiet">since {momentOf(one.created_at)}, seen {ago(one.seen_at)}</p>
					</div>
					{#if one.id !== session.id}
						<button class="btn btn-small btn-lesser" type="button" onclick={() => void end(one.id)}
							>Sign it out</button
						>
					{/if}
				</li>
			{/each}
		</ul>
		<p class="small quiet">A session ends after twelve hours without use, after seven days in any case.</p>
	</section>
</div>
<section class="below" aria-labelledby="notices">
	<h2 id="notices">Who is told what happens</h2>
	<Notices />
</section>
<section class="below" aria-labelledby="records">
	<h2 id="records">What was recorded</h2>
	{#if records.length}
		<ul>
			{#each records as one (`${one.at} ${one.about} ${one.text}`)}
				<li>
					<div>
						<strong>{one.about}</strong>: {one.text}
						<p class="small quiet">by {one.who}, {momentOf(one.at)}</p>
					</div>
				</li>
			{/each}
		</ul>
	{:else}
		<p class="quiet">
			Nothing yet: who changes who may sign in, or where an account's secrets go, is written down here.
		</p>
	{/if}
	<p class="small quiet">
		A new password for somebody else is made with <span class="code">highshelf operator invite NAME</span> on the
		service's own machine.
	</p>
</section>
<Confirm
	bind:this={forget}
	title="Forget the operator {chosen}?"
	text="The sessions end at once. What was recorded under the name stays."
	word="Forget"
	act={remove}
/>

<style>
	.below {
		margin-top: 1.6rem;
	}
	.two {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(26rem, 100%), 1fr));
		gap: 1.5rem;
		align-items: start;
	}
	h2 {
		margin-bottom: 0.5rem;
	}
	ul {
		background: var(--card);
		border: 1px solid var(--line);
		margin-bottom: 0.8rem;
	}
	li {
		display: flex;
		flex-wrap: wrap;
		gap: 0.4rem 1rem;
		justify-content: space-between;
		align-items: center;
		padding: 0.55rem 0.9rem;
		border-bottom: 1px solid var(--line);
		overflow-wrap: anywhere;
	}
	li:last-child {
		border-bottom: 0;
	}
	.ways {
		display: flex;
		flex-wrap: wrap;
		gap: 0.5rem;
	}
	.invite {
		justify-items: start;
	}
	.invite > :global(:first-child),
	.invite > div {
		width: 100%;
	}
	.link {
		background: var(--sunk);
		padding: 0.5rem 0.7rem;
		user-select: all;
	}
	.gap {
		margin-bottom: 1rem;
	}
</style>
