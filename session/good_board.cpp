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
    return donorOf(session) + (isFixed(session) ? " fixed" : " open");
}

KnownGoodSet goodOf(const CaseSession& session) {
    if (!isFixed(session)) return {session.board().name, {}};
    return knownGoodFrom(session.board(), session.facts(), donorOf(session));
}

} // namespace ustor
