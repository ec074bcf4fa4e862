import { Navigate, Route, Routes } from "react-router";
import { BuyingScreen } from "./buying/BuyingScreen";
import { PlanScreen } from "./buying/PlanScreen";
import { RequestsScreen } from "./buying/RequestsScreen";
import { CompareScreen } from "./compare/CompareScreen";
import { CutPlanScreen } from "./cutting/CutPlanScreen";
import { CuttingScreen } from "./cutting/CuttingScreen";
import { DrawingScreen } from "./drawings/DrawingScreen";
import { FindingsScreen } from "./findings/FindingsScreen";
import { ChangesScreen } from "./handover/ChangesScreen";
import { HandoverScreen } from "./handover/HandoverScreen";
import { HandoversScreen } from "./handover/HandoversScreen";
import { InquiriesScreen } from "./inquiries/InquiriesScreen";
import { InquiryScreen } from "./inquiries/InquiryScreen";
import { useSession } from "./lib/session";
import { LibraryScreen } from "./library/LibraryScreen";
import { ListScreen } from "./lists/ListScreen";
import { LoadScreen } from "./load/LoadScreen";
import { LookScreen } from "./look/LookScreen";
import { MatrixScreen } from "./matrix/MatrixScreen";
import { OrderScreen } from "./orders/OrderScreen";
import { OrdersScreen } from "./orders/OrdersScreen";
import { PartScreen } from "./part/PartScreen";
import { PartnersScreen } from "./partners/PartnersScreen";
import { ClassesScreen } from "./parts/ClassesScreen";
import { PartsScreen } from "./parts/PartsScreen";
import { PeopleScreen } from "./people/PeopleScreen";
import { ProgramsScreen } from "./programs/ProgramsScreen";
import { QuoteScreen } from "./quotes/QuoteScreen";
import { QuotesScreen } from "./quotes/QuotesScreen";
import { ReplaceScreen } from "./replace/ReplaceScreen";
import { RoundScreen } from "./rounds/RoundScreen";
import { RoundsScreen } from "./rounds/RoundsScreen";
import { SheetScreen } from "./sheet/SheetScreen";
import { SheetsScreen } from "./sheets/SheetsScreen";
import { Shell } from "./shell/Shell";
import { AtCenterScreen } from "./shop/AtCenterScreen";
import { CentersScreen } from "./shop/CentersScreen";
import { DayScreen } from "./shop/DayScreen";
import { FiguresScreen } from "./shop/FiguresScreen";
import { StockScreen } from "./shop/StockScreen";
import { TracedScreen } from "./shop/TracedScreen";
import { WorkOrderScreen } from "./shop/WorkOrderScreen";
import { WorkOrdersScreen } from "./shop/WorkOrdersScreen";
import { FirstPassword } from "./signin/FirstPassword";
import { FirstSecondFactor } from "./signin/FirstSecondFactor";
import { SignIn } from "./signin/SignIn";
import { SubstitutionScreen } from "./substitution/SubstitutionScreen";
import { TodayScreen } from "./today/TodayScreen";
import { WhereUsedScreen } from "./whereused/WhereUsedScreen";
import { WorkCentersScreen } from "./workcenters/WorkCentersScreen";

export function App() {
  const session = useSession();
  if (session.isPending) return null;
  if (session.isError && !session.data)
    return (
      <p role="alert" className="p-8 text-bad">
        {session.error.message}
      </p>
    );
  if (!session.data.user) return <SignIn />;
  if (session.data.wants_password) return <FirstPassword />;
  if (session.data.wants_second) return <FirstSecondFactor />;
  return (
    <Shell>
      <Routes>
        <Route path="/" element={<Navigate to="/today" replace />} />
        <Route path="/today" element={<TodayScreen />} />
        <Route path="/parts" element={<PartsScreen />} />
        <Route path="/part/:number" element={<PartScreen />} />
        <Route path="/parts/classes" element={<ClassesScreen />} />
        <Route path="/partners" element={<PartnersScreen />} />
        <Route path="/sheets" element={<SheetsScreen />} />
        <Route path="/sheets/:number" element={<SheetScreen />} />
        <Route path="/sheets/:number/compare" element={<CompareScreen />} />
        <Route path="/work-centers" element={<WorkCentersScreen />} />
        <Route path="/work-centers/load" element={<LoadScreen />} />
        <Route path="/library" element={<LibraryScreen />} />
        <Route path="/people" element={<PeopleScreen />} />
        <Route path="/where-used/:number" element={<WhereUsedScreen />} />
        <Route path="/matrix" element={<MatrixScreen />} />
        <Route path="/cutting" element={<CuttingScreen />} />
        <Route path="/cutting/:id" element={<CutPlanScreen />} />
        <Route path="/look/:number" element={<LookScreen />} />
        <Route path="/drawings/:number" element={<DrawingScreen />} />
        <Route path="/lists" element={<ListScreen />} />
        <Route path="/exchange" element={<ReplaceScreen />} />
        <Route path="/exchange/tables" element={<SubstitutionScreen />} />
        <Route path="/handover" element={<HandoversScreen />} />
        <Route path="/handover/:id" element={<HandoverScreen />} />
        <Route path="/handover/:id/changes" element={<ChangesScreen />} />
        <Route path="/programs" element={<ProgramsScreen />} />
        <Route path="/rounds" element={<RoundsScreen />} />
        <Route path="/rounds/:id" element={<RoundScreen />} />
        <Route path="/findings" element={<FindingsScreen />} />
        <Route path="/inquiries" element={<InquiriesScreen />} />
        <Route path="/inquiries/:id" element={<InquiryScreen />} />
        <Route path="/buying" element={<BuyingScreen />} />
        <Route path="/buying/:id" element={<PlanScreen />} />
        <Route path="/requests" element={<RequestsScreen />} />
        <Route path="/quotes" element={<QuotesScreen />} />
        <Route path="/quotes/:id" element={<QuoteScreen />} />
        <Route path="/orders" element={<OrdersScreen />} />
        <Route path="/orders/:id" element={<OrderScreen />} />
        <Route path="/shop" element={<WorkOrdersScreen />} />
        <Route path="/shop/orders/:id" element={<WorkOrderScreen />} />
        <Route path="/shop/at" element={<CentersScreen />} />
        <Route path="/shop/at/:code" element={<AtCenterScreen />} />
        <Route path="/shop/day" element={<DayScreen />} />
        <Route path="/shop/figures" element={<FiguresScreen />} />
        <Route path="/shop/stock" element={<StockScreen />} />
        <Route path="/shop/traced" element={<TracedScreen />} />
        <Route path="*" element={<Navigate to="/today" replace />} />
      </Routes>
    </Shell>
  );
}
