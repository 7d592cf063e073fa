import { useProposal } from "../../recordings";
import { EmptyChain } from "../EmptyChain";
import { LevelPath } from "../LevelPath";
import { StepEditor } from "../StepEditor";
import { didHere } from "../stepWords";
import { limitsOf } from "./alongTheChain";
import { useTheBench } from "./BenchContext";

/** The chain as a level path, and the step that is open. */
export function BenchChain() {
  const bench = useTheBench();
  const { recording, types, steps, act, chosen, setChosen, chosenStep, points, levels, live } = bench;
  const { passage } = bench.sounds;
  const chosenType = types.find((t) => t.type === chosenStep?.type);
  const proposal = useProposal(recording, steps.length === 0);
  const openFindings = bench.chainFindings.filter((f) => !recording.dismissed?.includes(f.code));
  return (
    <>
      {types.length > 0 && (
        <LevelPath
          steps={steps} types={types} levels={levels} chosen={chosen}
          source={`${(recording.sample_rate_hz / 1000).toString()} kHz, ${recording.channels === 1 ? "mono" : "stereo"}`}
          estimated={points.length > 0 && live.head?.is_settled === false}
          limits={limitsOf(bench.targets.find((t) => t.id === recording.target))}
          did={steps.map((step, i) => didHere(step, points[i]?.report))}
          findings={steps.map((_, i) => openFindings.filter((f) => f.at_step === i).length)}
          onFindings={(_, anchor) => bench.setAdviceAt(anchor)}
          onChoose={setChosen}
          onSwitch={(at, enabled) => act({ kind: "switch", at, enabled })}
          onMove={(from, to) => {
            act({ kind: "move", from, to });
            if (chosen === from) setChosen(to);
          }}
          onRemove={(at) => act({ kind: "remove", at })}
          onDuplicate={(at) => act({ kind: "duplicate", at })}
          onAdd={bench.addNew}
        />
      )}
      {types.length > 0 && steps.length === 0 && (
        <EmptyChain
          recipes={bench.recipes} types={types} proposal={proposal.data} tasting={`/recordings/${recording.id}/tasting?proposed`} onApply={bench.apply}
          onTake={(made) => act({ kind: "replace", steps: made })}
          onAddStep={(step) => act({ kind: "add", step, at: 0 })}
          onAdd={(type) => bench.addNew(type, 0)}
        />
      )}
      {chosenStep && chosenType && chosen !== null && (
        <StepEditor
          key={`${chosen}-${chosenStep.type}`} step={chosenStep} type={chosenType}
          sentence={points[chosen]?.sentence ?? recording.chain_sentences[chosen]}
          point={points[chosen]} picture={passage.picture} at={passage.at}
          onSet={(params, gesture) => act({ kind: "set", at: chosen, params, ...(gesture !== undefined && { gesture }) })}
          onRemove={() => act({ kind: "remove", at: chosen })}
          onTry={(params) => passage.tryOut(params)}
          voiceDbfs={levels[chosen]?.voice_level_dbfs ?? null}
        />
      )}
    </>
  );
}
