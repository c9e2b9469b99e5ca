<script setup lang="ts">
import { useRouter } from 'vue-router'
import { useAddress } from '../../parts/address'
import { useHead } from '../../parts/head'
import { useNew } from '../../parts/keys'
import BringIn from './BringIn.vue'
import CalendarCard from './CalendarCard.vue'
import HistoryList from './HistoryList.vue'
import HouseForm from './HouseForm.vue'
import PeopleForm from './PeopleForm.vue'
import RoomHead from '../../parts/RoomHead.vue'

/** What goes out, what comes in, how the house writes and reckons, what was done. */
const tab = useAddress('tab', 'print')
const router = useRouter()
useNew('print labels', () => void router.push('/papers/labels'))
const TABS = {
  print: 'Print and give',
  files: 'Bring in, take out',
  house: 'How we write and reckon',
  done: 'What was done',
}
useHead(() => `Papers: ${TABS[tab.value as keyof typeof TABS]}`)
</script>

<template>
  <section>
    <RoomHead title="Papers">
      <span class="soft">What goes out, what comes in, how the house is set, what was done.</span>
    </RoomHead>
    <ATabs v-model:active-key="tab" destroy-inactive-tab-pane>
      <ATabPane key="print" :tab="TABS.print">
        <div class="choices tiles">
          <RouterLink class="card choice" to="/papers/labels">
            <span class="name">Labels, lists, cards</span>
            <span class="soft">for packets and containers, on any sheet, also a part-used one</span>
          </RouterLink>
          <RouterLink class="card choice" to="/papers/parcels">
            <span class="name">Giving away</span>
            <span class="soft">parcels promised, packed, sent and received; who has what from whom</span>
          </RouterLink>
        </div>
        <CalendarCard />
      </ATabPane>
      <ATabPane key="files" :tab="TABS.files">
        <BringIn />
        <h2>Take out</h2>
        <p class="row">
          <a class="btn quiet" href="/api/papers/stock.csv" download>The stock, to bring in again (CSV)</a>
          <a class="btn quiet" href="/api/papers/lots.csv" download>Packets with forecast (CSV)</a>
          <a class="btn quiet" href="/api/papers/readings.csv" download>Readings (CSV)</a>
          <a class="btn quiet" href="/api/papers/everything.json" download>Everything (JSON)</a>
        </p>
        <p class="small soft">
          A whole copy of the file: <code>larder backup FILE</code>. The programs’ side of all this:
          <a href="/docs">the API’s own pages</a>.
        </p>
      </ATabPane>
      <ATabPane key="house" :tab="TABS.house">
        <HouseForm />
        <PeopleForm />
      </ATabPane>
      <ATabPane key="done" :tab="TABS.done"><HistoryList /></ATabPane>
    </ATabs>
  </section>
</template>

<style scoped>
h2 {
  margin: 18px 0 6px;
}
.choices {
  max-width: 760px;
}
.choice {
  display: flex;
  flex-direction: column;
  gap: 4px;
  text-decoration: none;
}
.choice:hover {
  border-color: var(--act);
}
</style>
