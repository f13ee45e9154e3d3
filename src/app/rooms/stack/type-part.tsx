/** A part typed as notes, one after the other: on the notes that are there, on the lead's, or sharing the line. */
import { Text } from '@chakra-ui/react'
import { useState } from 'react'
import { readTypedNotes, typedPart } from '../../../core/parts/typed-notes'
import type { PlacedPartNote } from '../../../core/song/part-schema'
import type { FrameRange } from '../../../core/song/select'
import { NameField } from '../../shared/name-field'

export function TypePart({ slots, range, onType }: { slots: readonly FrameRange[]; range: FrameRange; onType: (notes: PlacedPartNote[]) => void }) {
  const [refusal, setRefusal] = useState<string | null>(null)
  const keep = (text: string) => {
    const typed = readTypedNotes(text)
    if (!typed.ok) return setRefusal(`“${typed.unread.slice(0, 20)}” is no note. Names like F3, A♭3 or C, or MIDI numbers, one after the other.`)
    setRefusal(null)
    onType(typedPart(typed.midis, slots, range))
  }
  return (
    <>
      <NameField
        label="Notes, one after the other"
        name=""
        placeholder="type notes: F3 A♭3 C4"
        width="200px"
        size="xs"
        borderColor="seamline"
        fontWeight={500}
        onKeep={keep}
      />
      {refusal ? (
        <Text color="warn" role="alert" width="100%" order={1}>
          {refusal}
        </Text>
      ) : null}
    </>
  )
}
