import { AskNetwork } from '../../app/AskNetwork.tsx';
import { Waiting } from '../../parts/basics.tsx';
import { ProofReportView } from '../../parts/ProofReportView.tsx';
import { FabricPage, useFabricView } from './FabricFrame.tsx';

/** The proof of the open change on this fabric, or of what is live. */
export function ProofSheet() {
  const { fabric, change, proof } = useFabricView();
  return (
    <FabricPage>
      {proof ? (
        <ProofReportView proof={proof} fabric={fabric.name} isChange={change !== null}>
          <AskNetwork
            fabric={fabric.name}
            change={change}
            seatOf={new Map(proof.switches.map((s) => [s.host, s.seat]))}
          />
        </ProofReportView>
      ) : (
        <Waiting what="Proving" />
      )}
    </FabricPage>
  );
}
