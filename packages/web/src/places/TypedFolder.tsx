/** A folder by its path, typed or pasted. */
import type { TypedPlace } from '@naranja/contract'
import { useState } from 'react'
import { api } from '../api/index.ts'
import { useAct } from '../state/index.ts'
import { Button, inputLook } from '../ui/index.ts'

export function TypedFolder({ onPlace }: { onPlace: (place: TypedPlace) => void }) {
  const [path, setPath] = useState('')
  const [ask, { isLoading }] = api.useTypedPlaceMutation()
  const act = useAct()
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={async (e) => {
        e.preventDefault()
        const place = path.trim() && (await act(ask({ path: path.trim() })))
        if (!place) return
        onPlace(place)
        setPath('')
      }}
    >
      <input
        aria-label="Path of a folder"
        placeholder="/path/of/a/folder"
        value={path}
        onChange={(e) => setPath(e.target.value)}
        className={`${inputLook} mono w-[230px]`}
      />
      <Button type="submit" disabled={!path.trim() || isLoading}>
        Go to folder
      </Button>
    </form>
  )
}
