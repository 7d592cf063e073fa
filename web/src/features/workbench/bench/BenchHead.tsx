import { toOriginal } from "../../../audio/cutTimes";
import type { Step } from "../../../api/types";
import { HouseVoiceButton } from "../../houseVoices";
import { AdviceButton } from "../AdviceButton";
import { useProposal } from "../../recordings";
import { changeName, earlierChanges } from "../chainWords";
import { ResultsMenu } from "../ResultsMenu";
import { TargetButton } from "../TargetButton";
import { TimingButton } from "../timing";
import { WorkbenchHead } from "../WorkbenchHead";
import { chainLine } from "./alongTheChain";
import { useTheBench } from "./BenchContext";

/** Name and chain, and what is done with the whole recording. */
export function BenchHead() {
  const bench = useTheBench();
  const { recording, history, types, steps, act, result } = bench;
  const next = history.future[0];
  const proposal = useProposal(recording, bench.adviceAt !== null);
  const made = proposal.data?.steps.map(({ step }) => step as Step) ?? [];
  return (
    <WorkbenchHead
      recording={recording} chainLine={chainLine(recording, steps, result, bench.changes)} recipes={bench.recipes}
      undoes={changeName(history.past.at(-1), history, types)} earlier={earlierChanges(history, types)}
      redoes={next ? changeName(history, next, types) : null}
      canRun={steps.length > 0} busyRun={bench.busyRun} isCurrent={result !== null && !bench.outdated}
      onUndo={(count = 1) => { for (let i = 0; i < count; i += 1) act({ kind: "undo" }); }} onRedo={() => act({ kind: "redo" })}
      onApply={bench.apply} onSave={() => bench.setDialog("save")} onDeliver={() => bench.setDialog("deliver")}
      onRun={() => void bench.run()} onCancel={bench.cancel}
      beside={
        <>
          <TargetButton
            recording={recording} targets={bench.targets} result={result} outdated={bench.outdated} canFit={bench.canRun}
            onChoose={bench.chooseTarget} onFit={() => void bench.fit()}
          />
          <HouseVoiceButton recording={recording} resultId={bench.outdated ? null : (result?.id ?? null)} onAdd={bench.addMade} />
        </>
      }
    >
      <AdviceButton
        intake={recording.advice} chain={bench.chainFindings} dismissed={recording.dismissed ?? []} steps={steps} anchor={bench.adviceAt}
        onAnchor={bench.setAdviceAt} onAct={bench.takeAdvice} onGoTo={(leftS) => bench.goTo(toOriginal(leftS, bench.measured))} onDismiss={bench.dismiss}
        onMendAll={made.length > 0 ? () => act({ kind: "replace", steps: made }) : undefined}
      />
      <TimingButton
        recording={recording} edits={bench.edits} nowS={() => bench.sounds.playback.timeNowS} onEdit={bench.edit}
        onEnds={bench.chain.makeEnds} onGoTo={bench.goTo} settle={bench.settled}
      />
      <ResultsMenu results={bench.done} delivered={bench.delivered} shown={result} steps={steps} types={types} onChoose={bench.choose} />
    </WorkbenchHead>
  );
}
