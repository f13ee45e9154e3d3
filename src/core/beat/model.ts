/** Small fitted models: one hidden layer of tanh units, weights in base64. */

export interface PackedWeights {
  hidden: string
  hiddenBias: string
  output: string
  outputBias: string
}

export interface Model {
  inputs: number
  outputs: number
  /** The scores of one row of evidence. The array is the model's own. */
  score: (evidence: Float32Array) => Float64Array
}

/** @throws RangeError if the weights do not fit each other. */
export function unpackModel(packed: PackedWeights): Model {
  const [hidden, hiddenBias, output, outputBias] = [packed.hidden, packed.hiddenBias, packed.output, packed.outputBias].map(unpackFloats)
  const units = hiddenBias.length
  const inputs = hidden.length / units
  const outputs = outputBias.length
  if (!Number.isInteger(inputs) || output.length !== units * outputs) throw new RangeError('the weights of a model do not fit each other')
  const activations = new Float64Array(units)
  const scores = new Float64Array(outputs)
  return {
    inputs,
    outputs,
    score(evidence) {
      if (evidence.length !== inputs) throw new RangeError(`a model of ${inputs} inputs was given ${evidence.length}`)
      activations.set(hiddenBias)
      for (let i = 0; i < inputs; i++) {
        const value = evidence[i]
        for (let unit = 0, at = i * units; unit < units; unit++, at++) activations[unit] += value * hidden[at]
      }
      scores.set(outputBias)
      for (let unit = 0; unit < units; unit++) {
        const active = Math.tanh(activations[unit])
        for (let o = 0; o < outputs; o++) scores[o] += active * output[unit * outputs + o]
      }
      return scores
    },
  }
}

/** Little-endian, as every machine with a browser is. */
function unpackFloats(base64: string): Float32Array {
  const text = atob(base64)
  const bytes = new Uint8Array(text.length)
  for (let i = 0; i < bytes.length; i++) bytes[i] = text.charCodeAt(i)
  return new Float32Array(bytes.buffer)
}

/** Scores to confidences that sum to 1. */
export function softmax(scores: readonly number[], temperature: number): number[] {
  const highest = Math.max(...scores)
  const weights = scores.map(score => Math.exp((score - highest) / temperature))
  const total = weights.reduce((sum, weight) => sum + weight, 0)
  return weights.map(weight => weight / total)
}
