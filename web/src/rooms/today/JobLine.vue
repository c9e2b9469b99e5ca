<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, take, type Proposal, type Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import StartTest from '../trials/StartTest.vue'
import { day, iso, word } from '../../parts/words'

const props = defineProps<{ job: Proposal; nowS: number; people: Schemas['Person'][] }>()
const act = useAct()
const asking = ref<'' | 'move' | 'hand'>('')
const date = ref('')
const starting = ref(false)
const lotId = computed(() => Number(props.job.subject.startsWith('lot:') ? props.job.subject.slice(4) : 0))
const go = computed(() => {
  const [what, id] = props.job.subject.split(':')
  if (props.job.kind === 'count') return { to: '/tests', words: 'Count' }
  if (props.job.kind === 'order') return { to: '/needs', words: 'See the chain' }
  if (what === 'node')
    return { to: `/storage/${id}`, words: props.job.kind === 'read' ? 'Read the dial' : 'Look at it' }
  if (props.job.kind === 'regrow') return { to: '/growing', words: 'See the years' }
  return what === 'lot'
    ? { to: `/stock/${id}`, words: 'See the lot' }
    : { to: '/needs', words: 'See the chain' }
})
async function set(state: string, more: { moved_to_s?: number; person_id?: number | null } = {}) {
  const words = `${props.job.title}: ${word('job_state', state) || state}`
  const done = await act.run(words, () =>
    take(api.PUT('/api/jobs', { body: { origin_key: props.job.origin_key, state, ...more } })),
  )
  if (done) asking.value = ''
}
</script>

<template>
  <article class="job" :class="{ urgent: job.urgent }" :data-key="job.origin_key">
    <div class="what">
      <span class="title">{{ job.title }}</span>
      <span v-if="job.due_s" class="soft small" :title="iso(job.due_s)">
        · {{ job.due_s <= nowS + 86400 ? 'now' : `by ${day(job.due_s)}` }}</span
      >
      <span v-if="job.state && job.state !== 'open'" class="state small"
        >{{ word('job_state', job.state) || job.state
        }}<template v-if="job.person"> to {{ job.person }}</template></span
      >
      <div class="why small soft">{{ job.why }}</div>
    </div>
    <div class="row acts small">
      <button v-if="job.kind === 'test' && lotId" class="btn quiet" type="button" @click="starting = true">
        Start the test
      </button>
      <RouterLink v-else :to="go.to" class="btn quiet">{{ go.words }}</RouterLink>
      <button class="btn link" type="button" @click="set('done')">done</button>
      <button v-if="job.state !== 'in_progress'" class="btn link" type="button" @click="set('in_progress')">
        in progress
      </button>
      <button class="btn link" type="button" @click="asking = asking === 'move' ? '' : 'move'">move</button>
      <button
        v-if="people.length"
        class="btn link"
        type="button"
        @click="asking = asking === 'hand' ? '' : 'hand'"
      >
        hand to
      </button>
      <button class="btn link" type="button" @click="set('dropped')">drop</button>
    </div>
    <form
      v-if="asking === 'move'"
      class="row"
      @submit.prevent="set('moved', { moved_to_s: Date.parse(date) / 1000 })"
    >
      <label class="field">to<input v-model="date" type="date" :min="iso(nowS + 86400)" /></label>
      <button class="btn" type="submit" :disabled="!date">Move it</button>
    </form>
    <div v-if="asking === 'hand'" class="row">
      <button
        v-for="p in people"
        :key="p.id ?? 0"
        class="btn quiet"
        type="button"
        @click="set('handed_over', { person_id: p.id })"
      >
        {{ p.name }}
      </button>
    </div>
    <StartTest
      v-if="starting"
      :open="true"
      :lot-id="lotId"
      :name="job.title.replace(/^Test \d+ seeds of /, '')"
      @close="starting = false"
    />
  </article>
</template>

<style scoped>
.job {
  border-top: 1px solid var(--hair-soft);
  padding: 7px 0 6px;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 384px;
  gap: 4px 16px;
}
.job > form {
  grid-column: 1 / 3;
}
.urgent .title {
  font-weight: 700;
}
.state {
  border: 1px solid var(--hair);
  border-radius: 3px;
  padding: 0 6px;
  margin-left: 6px;
}
.acts {
  gap: 0 2px;
  align-content: start;
}
.acts .btn {
  font-size: 14px;
  font-weight: 500;
}
.acts .btn.quiet {
  font-weight: 600;
  padding: 3px 9px;
}
.acts > :first-child {
  margin-right: 6px;
}
@media (max-width: 900px) {
  .job {
    grid-template-columns: 1fr;
  }
  .job > form {
    grid-column: 1;
  }
}
@media (max-width: 760px) {
  .acts {
    gap: 0;
  }
  .acts .btn {
    min-height: 44px;
    padding: 8px 7px;
  }
}
</style>
