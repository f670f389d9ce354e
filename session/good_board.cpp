#include "session/good_board.h"

namespace ustor {
namespace {

bool isFixed(const CaseSession& session) {
    const auto& closed = session.assessment().state.closed;
    return closed && closed->fixed;
}

} // namespace

std::string donorOf(const CaseSession& session) {
    return session.folder().path.filename().string();
}

std::string goodStandingOf(const CaseSession& session) {
    const char* stands = isFixed(session)                    ? " fixed"
                         : session.assessment().state.closed ? " closed"
                                                             : " open";
    return donorOf(session) + stands;
}

KnownGoodSet goodOf(const CaseSession& session) {
    if (!isFixed(session)) return {session.board().name, {}};
    return knownGoodFrom(session.board(), session.facts(), donorOf(session));
}

CasePace timedIn(const CaseSession& session) {
    if (!session.assessment().state.closed) return {donorOf(session), {}};
    return {donorOf(session), paceOf(session.board(), session.facts())};
}

} // namespace ustor
