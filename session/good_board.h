#pragma once

#include "diagnosis/known_good.h"
#include "diagnosis/work_pace.h"
#include "session/case_session.h"

namespace ustor {

/// What an open case tells the next board of its kind: a closed, fixed one what it should read; any other
/// takes back what it told before. Empty readings say so.
KnownGoodSet goodOf(const CaseSession& session);
/// How the case stands for that, in a word: while it stays, nothing is to be told anew.
std::string goodStandingOf(const CaseSession& session);
/// The name that its readings stand under.
std::string donorOf(const CaseSession& session);

/// How long its work took, once it is closed; nothing before.
CasePace timedIn(const CaseSession& session);

} // namespace ustor
