import { createRouter, createWebHistory } from "vue-router";

import SignInView from "./SignInView.vue";
import { useSession } from "./session";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/sign-in", name: "sign-in", component: SignInView, meta: { open: true } },
    { path: "/setup", name: "setup", component: () => import("./SetupView.vue"), meta: { anyone: true, bare: true } },
    { path: "/company", name: "company", component: () => import("./CompanyView.vue"), meta: { anyone: true, bare: true } },
    { path: "/", name: "yard", component: () => import("../yard/YardView.vue"), meta: { keeps: true } },
    { path: "/today", name: "today", component: () => import("../today/TodayView.vue") },
    { path: "/machines/new", name: "new-machine", component: () => import("../machine/MachineView.vue"), props: { machine: "" } },
    { path: "/machines/:machine", name: "machine", component: () => import("../machine/MachineView.vue"), props: true },
    { path: "/machines/:machine/course", name: "course", component: () => import("../machine/CourseView.vue"), props: true },
    {
      path: "/machines/:machine/life",
      name: "life",
      component: () => import("../machine/LifeView.vue"),
      props: true,
      meta: { keeps: true },
    },
    { path: "/machines/:machine/incident", name: "incident", component: () => import("../machine/IncidentView.vue"), props: true },
    { path: "/models/draft", name: "draft", component: () => import("../machine/ModelDraftView.vue") },
    { path: "/models", name: "models", component: () => import("../machine/ModelsView.vue") },
    { path: "/machines/:machine/start", name: "approach", component: () => import("../walkaround/ApproachView.vue"), props: true },
    { path: "/machines/:machine/where", name: "where", component: () => import("../machine/WhereView.vue"), props: true },
    { path: "/machines/:machine/overnight", name: "overnight", component: () => import("../machine/OvernightView.vue"), props: true },
    {
      path: "/walk/:machine/:inspection",
      name: "walk",
      component: () => import("../walkaround/WalkView.vue"),
      props: true,
      meta: { bare: true, gloves: true },
    },
    { path: "/walk/:machine/:inspection/verdict", name: "verdict", component: () => import("../walkaround/VerdictView.vue"), props: true },
    { path: "/records", name: "records", component: () => import("../records/RecordsView.vue") },
    { path: "/records/:inspection", name: "record", component: () => import("../records/RecordView.vue"), props: true },
    { path: "/defects", name: "defects", component: () => import("../defects/DefectsView.vue") },
    { path: "/defects/:machine", name: "machine-defects", component: () => import("../defects/DefectsView.vue"), props: true },
    { path: "/defects/:machine/:defect", name: "defect", component: () => import("../defects/DefectsView.vue"), props: true },
    { path: "/readings", name: "readings", component: () => import("../readings/ReadingsView.vue") },
    { path: "/readings/:reading", name: "reading", component: () => import("../readings/ReadingsView.vue"), props: true },
    { path: "/machines/:machine/readings", name: "trends", component: () => import("../readings/TrendsView.vue"), props: true },
    {
      path: "/machines/:machine/run",
      name: "run",
      component: () => import("../procedure/RunView.vue"),
      props: true,
      meta: { bare: true, gloves: true },
    },
    { path: "/jobs", name: "jobs", component: () => import("../procedure/JobsView.vue"), meta: { anyone: true } },
    { path: "/emergency", name: "emergency", component: () => import("./EmergencyView.vue"), meta: { anyone: true } },
    { path: "/instruments", name: "instruments", component: () => import("../readings/InstrumentsView.vue") },
    { path: "/rulebook", name: "rulebook", component: () => import("../rules/RulebookView.vue") },
    { path: "/languages", name: "languages", component: () => import("./LanguagesView.vue"), meta: { anyone: true } },
    { path: "/schools", name: "schools", component: () => import("../rules/SchoolsView.vue") },
    { path: "/training", name: "training", component: () => import("../people/TrainingView.vue") },
    { path: "/sessions", name: "sessions", component: () => import("../people/SessionsView.vue") },
    { path: "/account", name: "account", component: () => import("../people/AccountView.vue") },
    { path: "/people", name: "people", component: () => import("../people/PeopleView.vue") },
    { path: "/:rest(.*)*", redirect: "/" },
  ],
});

router.beforeEach(async (to) => {
  const session = useSession();
  if (!session.known) await session.look();
  if (!session.person && !to.meta.open && !to.meta.anyone) return { name: "sign-in", query: { to: to.fullPath } };
  return true;
});
