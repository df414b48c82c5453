import { AskNetwork } from '../../app/AskNetwork.tsx';
import { useMay } from '../../app/session.ts';
import { Waiting } from '../../parts/basics.tsx';
import { ProofReportView } from '../../parts/ProofReportView.tsx';
import { FabricPage, useFabricView } from './FabricFrame.tsx';
import { Waivers } from './Waivers.tsx';

/** The proof of the open change on this fabric, or of what is live. */
export function ProofSheet() {
  const { fabric, change, proof } = useFabricView();
  const mayWaive = useMay('designer');
  return (
    <FabricPage>
      {proof ? (
        <ProofReportView proof={proof} fabric={fabric.name} isChange={change !== null} mayWaive={mayWaive}>
          <Waivers proof={proof} />
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
