<script lang="ts">
import { defineComponent, h, toRaw, withMemo, type PropType, type VNode } from 'vue';
import type { ControlRef } from '@core/automation/control';
import { isArmed } from '@core/session/mode';
import type { Strip } from '@core/session/types';
import type { Decibels } from '@core/base/units';
import ModeMark from '@/ui/ModeMark.vue';
import type { Column, LaneState, RailMark, Row } from './rows/kind';
import { kindOf } from './rows/rows';
import { stepOf } from './zoom';
import { say } from './texts';

const NARROWEST = 4;
/** From afar edges would hide what is between them: a picked column is tinted. */
const FAR_PICKED = {
  boxShadow: 'none',
  background: 'color-mix(in srgb, var(--picked) 24%, transparent)',
};
/** Pixels of an average letter of the caps' type. */
const LETTER = 6.6;

/** A strip as a column: a cell for every row, drawn and spoken by the row's kind. */
export default defineComponent({
  name: 'StripColumn',
  props: {
    strip: { type: Object as PropType<Strip>, required: true },
    number: { type: Number, required: true },
    x: { type: Number, required: true },
    width: { type: Number, required: true },
    rows: { type: Array as PropType<readonly Row[]>, required: true },
    rails: { type: Array as PropType<readonly RailMark[]>, required: true },
    effective: { type: Number as PropType<Decibels>, default: null },
    held: Boolean,
    audible: Boolean,
    picked: Boolean,
    /** Row that has the keyboard, when it is in this column. */
    focus: { type: String as PropType<string | null>, default: null },
    outName: { type: String, required: true },
    editedInsert: { type: String as PropType<string | null>, default: null },
    dry: { type: Array as PropType<readonly string[]>, default: () => [] },
    preamp: { type: String as PropType<'settled' | 'open' | null>, default: null },
    units: { type: String, default: '' },
    writing: { type: Array as PropType<readonly ControlRef[] | null>, default: null },
    /** Rows that a traced signal passes, parted by spaces; null where it does not pass the strip. */
    lit: { type: String as PropType<string | null>, default: null },
  },
  setup(tracked) {
    // It is drawn anew when it is given something else, and only then: nothing has to be told of each field that is read.
    const props = toRaw(tracked);
    let column: Column;
    let litRows: ReadonlySet<string> = new Set();
    let litFrom: string | null = null;
    function automationText(lanes: LaneState | null): string {
      if (!lanes) return '';
      if (lanes.writes) return say('beingWritten');
      const { automation } = props.strip;
      return automation === 'off'
        ? say('automationOff')
        : isArmed(automation)
          ? say('automatedArmedToAutomation', { automation })
          : say('automated');
    }
    function cell(row: Row, lanes: LaneState | null) {
      const kind = kindOf(row);
      const c = column;
      const said = kind.speak(c, row);
      return h(
        'div',
        {
          id: `cell-${props.strip.id}-${row.key}`,
          key: row.key,
          class: ['cell', row.kind, { focus: props.focus === row.key, lit: litRows.has(row.key) }],
          // The colour is told where it is seen: told of the column, it would have all cells styled anew with each move.
          style: {
            ...{ top: `${row.y}px`, height: `${row.height}px` },
            ...(row.kind === 'cap' ? { '--family': props.strip.colour } : {}),
          },
          'data-row': row.key,
          ...(said
            ? {
                role: 'gridcell',
                'aria-label': `${c.name}${row.kind === 'cap' ? ',' : ':'} ${said}${automationText(lanes)}`,
                'aria-selected': row.kind === 'cap' ? props.picked : undefined,
              }
            : {}),
        },
        [
          ...kind.draw(c, row),
          lanes && h(ModeMark, { class: 'lane-mark', mode: props.strip.automation, ...lanes, size: 7 }),
        ],
      );
    }
    // A hand that moves one control draws one cell of a column, and not all.
    let drawn: VNode[] = [];
    let drawnRows: readonly Row[] = [];
    function cells() {
      if (drawnRows !== props.rows) [drawn, drawnRows] = [[], props.rows];
      const c = column;
      return props.rows.map((row, index) => {
        const kind = kindOf(row);
        const state = kind.lanes?.(c, row) ?? null;
        const lanes = state && (state.has || state.writes) ? state : null;
        const sees = [
          c.name,
          props.focus === row.key,
          litRows.has(row.key),
          lanes && `${lanes.has} ${lanes.writes} ${props.strip.automation}`,
          ...kind.sees(c, row),
        ];
        return withMemo(sees, () => cell(row, lanes), drawn, index);
      });
    }
    return () => {
      column = {
        ...props,
        name: props.strip.name || props.strip.id,
        characters: Math.max(NARROWEST, Math.floor((props.width - 4) / LETTER)),
      };
      if (litFrom !== props.lit) litRows = new Set((litFrom = props.lit)?.split(' '));
      return h(
        'div',
        {
          class: [
            'column',
            props.strip.kind,
            {
              picked: props.picked,
              silent: !props.audible || props.strip.mute,
              traced: props.lit !== null,
            },
          ],
          style: {
            ...{ left: `${props.x}px`, width: `${props.width}px` },
            ...(props.picked && stepOf(props.width) === 'far' ? FAR_PICKED : {}),
          },
          role: 'row',
          'aria-label': column.name,
          'data-strip': props.strip.id,
        },
        cells(),
      );
    };
  },
});
</script>

<style scoped src="./cells.css"></style>
