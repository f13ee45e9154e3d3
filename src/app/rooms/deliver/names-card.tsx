/** What files are called, and what they say of themselves. */
import { chakra, Text } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import { NAME_PIECES } from '../../../core/files/names'
import { ChooseFile } from '../../shared/choose-file'
import { NameField } from '../../shared/name-field'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { MOST_COVER_BYTES, type Cover } from '../../../storage/covers'
import { setDeliver, useDeliverSettings, YEAR_RANGE } from '../../song/deliver-settings'
import { Row } from './row'

interface NamesCardProps {
  /** What a file would be called. */
  example: string
  cover: Cover | null
  onCover: (cover: Cover | null) => void
}

export function NamesCard({ example, cover, onCover }: NamesCardProps) {
  const { pattern, artist, album, year } = useDeliverSettings()
  const [refused, setRefused] = useState<string | null>(null)
  const choose = async (file: File) => {
    const data = new Uint8Array(await file.arrayBuffer())
    const mediaType = imageType(data)
    if (!mediaType) setRefused(`“${file.name}” is neither a JPEG nor a PNG.`)
    else if (data.length > MOST_COVER_BYTES) setRefused(`“${file.name}” has ${(data.length / 1e6).toFixed(1)} MB; a cover may have 2: every file carries it.`)
    else {
      setRefused(null)
      onCover({ data, mediaType })
    }
  }
  return (
    <Card>
      <CardTitle>Names and tags</CardTitle>
      <Row label="Names">
        <NameField label="Pattern of file names" name={pattern} width="280px" borderColor="seamline" onKeep={kept => setDeliver({ pattern: kept })} />
      </Row>
      <Text color="ink.soft" fontSize="13px" mt={1}>
        {example} <br />
        Pieces: {NAME_PIECES.map(piece => `{${piece}}`).join(' ')}
      </Text>
      <Row label="Artist">
        <NameField label="Artist" name={artist} mayBeEmpty width="180px" borderColor="seamline" onKeep={kept => setDeliver({ artist: kept })} />
      </Row>
      <Row label="Album">
        <NameField label="Album" name={album} mayBeEmpty width="180px" borderColor="seamline" onKeep={kept => setDeliver({ album: kept })} />
        <NumberField label="Year" value={year} {...YEAR_RANGE} digits={0} width="56px" onKeep={kept => setDeliver({ year: kept })} />
      </Row>
      <Row label="Cover">
        {cover ? <Picture cover={cover} /> : null}
        <ChooseFile label="A cover picture, JPEG or PNG" accept="image/jpeg,image/png" size="xs" px={3} onChoose={file => void choose(file)}>
          {cover ? 'Another picture' : 'Choose a picture'}
        </ChooseFile>
        {cover ? (
          <Pill size="xs" px={3} onClick={() => onCover(null)}>
            Without
          </Pill>
        ) : null}
      </Row>
      {refused ? (
        <Text role="alert" color="warn" fontSize="13px" mt={1}>
          {refused} The files carry {cover ? 'the one before' : 'none'}.
        </Text>
      ) : null}
      <Text color="ink.soft" fontSize="13px" mt={2}>
        Title, lyrics, tempo and key go along by themselves.
      </Text>
    </Card>
  )
}

const Image = chakra('img')

function Picture({ cover }: { cover: Cover }) {
  const image = useRef<HTMLImageElement>(null)
  useEffect(() => {
    const url = URL.createObjectURL(new Blob([cover.data], { type: cover.mediaType }))
    if (image.current) image.current.src = url
    return () => URL.revokeObjectURL(url)
  }, [cover])
  return <Image ref={image} alt="The cover" width="40px" height="40px" objectFit="cover" borderRadius="6px" />
}

/** By its first bytes, whatever the file is called. */
function imageType(bytes: Uint8Array): Cover['mediaType'] | null {
  if (bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff) return 'image/jpeg'
  if (bytes[0] === 0x89 && bytes[1] === 0x50 && bytes[2] === 0x4e && bytes[3] === 0x47) return 'image/png'
  return null
}
