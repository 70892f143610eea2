/** The columns of the list from left to right, put in order by dragging or by keys. */
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core'
import { arrayMove, SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { GripVertical, X } from 'lucide-react'
import { nameOfColumn } from './columns.tsx'

export function ColumnOrder({ shown, onOrder }: { shown: readonly string[]; onOrder: (shown: string[]) => void }) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const moved = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) onOrder(arrayMove([...shown], shown.indexOf(String(active.id)), shown.indexOf(String(over.id))))
  }
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={moved}>
      <SortableContext items={[...shown]} strategy={verticalListSortingStrategy}>
        <ul className="m-0 max-h-[270px] list-none overflow-auto p-0">
          {shown.map((code) => (
            <ColumnItem key={code} code={code} onOff={() => onOrder(shown.filter((c) => c !== code))} />
          ))}
        </ul>
      </SortableContext>
    </DndContext>
  )
}

function ColumnItem({ code, onOff }: { code: string; onOff: () => void }) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: code })
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className="flex items-center gap-1 rounded bg-panel px-1 py-[1px] hover:bg-raised"
    >
      <button type="button" {...attributes} {...listeners} aria-label={`Move ${nameOfColumn(code)}`} className="cursor-grab p-0.5 text-ink-3">
        <GripVertical size={13} />
      </button>
      <span className="flex-1">{nameOfColumn(code)}</span>
      <button type="button" onClick={onOff} aria-label={`Hide ${nameOfColumn(code)}`} className="p-0.5 text-ink-3 hover:text-ink">
        <X size={12} />
      </button>
    </li>
  )
}
