<script setup lang="ts">
import { LineChart, ScatterChart } from 'echarts/charts'
import { AxisPointerComponent, DataZoomComponent, GridComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import type { Schemas } from '../../api/client'
import { dark } from '../../parts/theme'
import { useUnits } from '../../parts/words'

use([
  LineChart,
  ScatterChart,
  GridComponent,
  TooltipComponent,
  DataZoomComponent,
  AxisPointerComponent,
  CanvasRenderer,
])
const props = defineProps<{ chart: Schemas['Chart'] }>()
const units = useUnits()
const css = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()

const option = computed(() => {
  void dark.value
  const c = props.chart
  const [warm, wet, living, soft, hair] = ['--warm', '--wet', '--living', '--soft', '--hair'].map(css)
  const ms = c.at_s.map((s) => s * 1000)
  const pick = (values: number[], sure: boolean) =>
    values.map((v, i) => [ms[i], (c.source[i] === 'usual') === sure ? null : v] as [number, number | null])
  const t = c.temperature_c.map((v) => Number(units.number(v).toFixed(1)))
  const h = c.erh.map((v) => Math.round(1000 * v) / 10)
  const label = { color: soft }
  const line = (color: string, grid: number, data: unknown, guess: boolean, name: string) => ({
    type: 'line', name, data, xAxisIndex: grid, yAxisIndex: grid, showSymbol: false, connectNulls: false, silent: guess,
    lineStyle: { color, width: guess ? 1 : 1.6, type: guess ? 'dotted' : 'solid', opacity: guess ? 0.8 : 1 }, itemStyle: { color },
  }) // prettier-ignore
  const dots = (color: string, grid: number, data: unknown, name: string) => ({
    type: 'scatter', name, data, xAxisIndex: grid, yAxisIndex: grid, symbolSize: 5,
    itemStyle: { color: 'transparent', borderColor: color, borderWidth: 1.2 },
  }) // prettier-ignore
  const grids = [8, 42, 74].map((top, i) => ({
    left: 48,
    right: 12,
    top: `${top}%`,
    height: i === 2 ? '17%' : '25%',
  }))
  const axis = (i: number, name: string) => ({
    type: 'value', gridIndex: i, name, scale: i < 2, nameTextStyle: { ...label, align: 'left', padding: [0, 0, 0, -36] },
    axisLabel: label, splitLine: { lineStyle: { color: hair, opacity: 0.5 } }, splitNumber: 3,
  }) // prettier-ignore
  return {
    animation: false,
    textStyle: { fontFamily: "'Atkinson Hyperlegible Next Variable', sans-serif" },
    grid: grids,
    axisPointer: { link: [{ xAxisIndex: 'all' }], lineStyle: { color: soft } },
    tooltip: {
      trigger: 'axis',
      backgroundColor: css('--page'),
      borderColor: hair,
      textStyle: { color: css('--ink') },
    },
    dataZoom: [{ type: 'inside', xAxisIndex: [0, 1, 2] }],
    xAxis: [0, 1, 2].map((i) => ({
      type: 'time', gridIndex: i, axisLabel: { ...label, show: i === 2, hideOverlap: true },
      axisLine: { lineStyle: { color: hair } }, axisTick: { show: i === 2 },
    })), // prettier-ignore
    yAxis: [axis(0, `temperature, ${units.unit.value}`), axis(1, 'humidity, %'), axis(2, 'ageing speed')],
    series: [
      line(warm!, 0, pick(t, true), false, 'temperature'),
      line(warm!, 0, pick(t, false), true, 'usual temperature'),
      dots(
        warm!,
        0,
        c.read
          .filter((r) => r.temperature_c !== null)
          .map((r) => [r.at_s * 1000, Number(units.number(r.temperature_c!).toFixed(1))]),
        'read',
      ),
      line(wet!, 1, pick(h, true), false, 'humidity'),
      line(wet!, 1, pick(h, false), true, 'usual humidity'),
      dots(
        wet!,
        1,
        c.read.filter((r) => r.erh !== null).map((r) => [r.at_s * 1000, Math.round(1000 * r.erh!) / 10]),
        'read',
      ),
      {
        type: 'line',
        name: 'ageing speed',
        xAxisIndex: 2,
        yAxisIndex: 2,
        showSymbol: false,
        data: c.speed.map((v, i) => [ms[i], v]),
        lineStyle: { color: living, width: 1 },
        areaStyle: { color: living, opacity: 0.55 },
        itemStyle: { color: living },
      },
    ],
  }
})
const rows = computed(() => {
  const step = Math.max(1, Math.floor(props.chart.at_s.length / 24))
  return props.chart.at_s.filter((_, i) => i % step === 0).map((s, k) => ({ s, i: k * step }))
})
</script>

<template>
  <div>
    <VChart
      class="chart"
      :option="option"
      autoresize
      :aria-label="`Climate of ${chart.name}: temperature, humidity and ageing speed`"
    />
    <p class="small soft">
      Rings: read. Solid: between readings. Dotted: not read, the usual curve of such a place (a guess).
      Ageing speed 1: a room at 18 °C and 50 %. Turn the wheel to zoom.
    </p>
    <details class="small">
      <summary>As a table</summary>
      <table class="plain">
        <thead>
          <tr>
            <th>day</th>
            <th>temperature</th>
            <th>humidity</th>
            <th>ageing speed</th>
            <th>from</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.s">
            <td>{{ new Date(r.s * 1000).toISOString().slice(0, 10) }}</td>
            <td>{{ units.temperature(chart.temperature_c[r.i]) }}</td>
            <td>{{ Math.round(100 * (chart.erh[r.i] ?? 0)) }} %</td>
            <td>{{ (chart.speed[r.i] ?? 0).toFixed(2) }}</td>
            <td>{{ chart.source[r.i] }}</td>
          </tr>
        </tbody>
      </table>
    </details>
  </div>
</template>

<style scoped>
.chart {
  height: 330px;
  width: 100%;
}
</style>
