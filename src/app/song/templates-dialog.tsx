/** Templates: laid over the song, made of it, given away and brought in. */
import { Box, Dialog, Flex, Text } from '@chakra-ui/react'
import { Download, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { create } from 'zustand'
import { readTemplate, templateOf, writeTemplate } from '../../core/layers/template-file'
import { safeName } from '../../core/files/names'
import { useBoothSettings } from '../recording/booth-settings'
import { ChooseFile } from '../shared/choose-file'
import { DialogCard } from '../shared/dialog-card'
import { NameField } from '../shared/name-field'
import { Pill, PrimaryButton, SmallButton } from '../shared/parts'
import { saveBlob } from '../shared/save-blob'
import { useDeliverSettings } from './deliver-settings'
import { layOutTemplate } from './lay-out'
import { currentSong, useSong } from './song-store'
import { TemplatePicture } from './template-picture'
import { chooseTemplate, choicesOf, dropTemplate, renameTemplate, saveTemplate, useTemplates, type Choice } from './templates'

export const useTemplatesDialog = create<{ open: boolean }>(() => ({ open: false }))

const setOpen = (open: boolean) => useTemplatesDialog.setState({ open })

export function TemplatesDialog() {
  const open = useTemplatesDialog(state => state.open)
  return (
    <Dialog.Root open={open} onOpenChange={details => setOpen(details.open)} size="xl" scrollBehavior="inside" lazyMount unmountOnExit>
      <DialogCard title="Templates">
        <Body />
      </DialogCard>
    </Dialog.Root>
  )
}

function Body() {
  const { own, chosen } = useTemplates()
  const [refused, setRefused] = useState<string | null>(null)
  const bring = async (file: File) => {
    const read = readTemplate(await file.text())
    setRefused(read.ok ? null : `“${file.name}” cannot be used: ${read.why}. Nothing was changed.`)
    if (read.ok) await saveTemplate(read.template)
  }
  return (
    <Dialog.Body pb={5}>
      <Text color="ink.soft">What a song begins with: layers with their places, recipes and spaces. The next song gets the one that is chosen.</Text>
      <Flex as="ul" direction="column" gap={2} mt={3} listStyleType="none">
        {choicesOf(own).map(choice => (
          <Row key={choice.key} choice={choice} isChosen={choice.key === chosen} />
        ))}
      </Flex>
      <SaveAs />
      <Flex align="center" gap={3} mt={3}>
        <ChooseFile label="A template file" accept=".json,application/json" onChoose={file => void bring(file)}>
          Bring one in …
        </ChooseFile>
        {refused ? (
          <Text role="alert" color="warn">
            {refused}
          </Text>
        ) : null}
      </Flex>
    </Dialog.Body>
  )
}

function Row({ choice, isChosen }: { choice: Choice; isChosen: boolean }) {
  const { key, template, id } = choice
  const sung = useSong(song => song.takes.some(take => !take.binned))
  const lay = () => {
    chooseTemplate(key)
    layOutTemplate(template)
    setOpen(false)
  }
  return (
    <Flex as="li" aria-label={template.name} align="center" gap={3} p="8px 12px" bg={isChosen ? 'sunken' : undefined} borderRadius="12px">
      <TemplatePicture template={template} />
      <Box flex="1" minW={0}>
        {id === null ? (
          <Text fontWeight={600}>{template.name}</Text>
        ) : (
          <NameField label={`Name of ${template.name}`} name={template.name} size="2xs" onKeep={name => void renameTemplate({ id, template }, name)} />
        )}
        <Text color="ink.soft" fontSize="13px">
          {template.says || template.layers.map(layer => layer.name).join(', ')}
        </Text>
      </Box>
      <Pill size="xs" px={3} chosen={isChosen} onClick={() => chooseTemplate(key)} aria-label={`${template.name} for the next song`}>
        {isChosen ? 'for the next song' : 'choose'}
      </Pill>
      <Pill size="xs" px={3} onClick={lay} title={sung ? 'What was sung stays; empty layers make room' : undefined} aria-label={`Lay ${template.name} here`}>
        lay it here
      </Pill>
      <SmallButton
        aria-label={`Save ${template.name} as a file`}
        title="Save as a file, to give away"
        onClick={() => saveBlob(new Blob([writeTemplate(template)], { type: 'application/json' }), `${safeName(template.name)}.json`)}
      >
        <Download size={15} aria-hidden />
      </SmallButton>
      {id === null ? (
        <Box width="27px" />
      ) : (
        <SmallButton aria-label={`Remove ${template.name}`} title="Remove it; songs stay as they are" onClick={() => void dropTemplate(id)}>
          <Trash2 size={15} aria-hidden />
        </SmallButton>
      )}
    </Flex>
  )
}

/** The song that is open, as a template. */
function SaveAs() {
  const layers = useSong(song => song.layers.length)
  const title = useSong(song => song.title)
  const [name, setName] = useState('')
  const [says, setSays] = useState('')
  const [problem, setProblem] = useState(false)
  const called = name || `Like ${title}`.slice(0, 120)
  const save = () => {
    const { surround, guide, click, countInBars, preRollBars } = useBoothSettings.getState()
    const { pattern } = useDeliverSettings.getState()
    const template = templateOf(currentSong(), { name: called, says, booth: { surround, guide, click, countInBars, preRollBars }, pattern })
    saveTemplate(template).then(
      () => setProblem(false),
      () => setProblem(true),
    )
  }
  if (layers === 0) return null
  return (
    <Box mt={4} pt={3} borderTopWidth="1px" borderColor="seamline">
      <Text fontWeight={600}>This song as a template</Text>
      <Flex align="center" gap={2} mt={2} wrap="wrap">
        <NameField label="Name of the new template" name={called} width="180px" borderColor="seamline" onKeep={setName} />
        <NameField label="What it is for" name={says} mayBeEmpty placeholder="what it is for" width="240px" borderColor="seamline" onKeep={setSays} />
        <PrimaryButton size="sm" onClick={save}>
          Save it
        </PrimaryButton>
      </Flex>
      <Text color="ink.soft" fontSize="13px" mt={1}>
        Layers, places, recipes, spaces, tidying, tuning, how the Booth is set up and how files are named; nothing that was sung.
      </Text>
      {problem ? (
        <Text role="alert" color="warn">
          It could not be kept: free some disk space and try again.
        </Text>
      ) : null}
    </Box>
  )
}
