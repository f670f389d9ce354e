#pragma once

#include <QStringList>
#include <QTemporaryDir>
#include <QTest>
#include <cstdio>
#include <memory>
#include <vector>

namespace ustor::testing {

/// Runs every class of a test program, shuffled by nothing and stopped by nothing; the number of failures is
/// the exit.
class RunAll {
  public:
    template <class T> RunAll& add() {
        m_tests.push_back(std::make_unique<T>());
        return *this;
    }
    int run(int argc, char** argv) {
        // A runtime folder of its own: what one test leaves on is no other's alarm.
        const QTemporaryDir runtime;
        qputenv("XDG_RUNTIME_DIR", runtime.path().toLocal8Bit());
        // Its crash handler would take the signal of a closed pipe for a crash, which the toolkit has ignored
        // since the first process was started; and would hold everything up while a debugger tells where it
        // was.
        QStringList arguments;
        for (int i = 0; i < argc; ++i)
            arguments << QString::fromLocal8Bit(argv[i]);
        arguments << QStringLiteral("-nocrashhandler");
        int failed = 0;
        for (const auto& test : m_tests)
            failed += QTest::qExec(test.get(), arguments);
        return failed;
    }

  private:
    std::vector<std::unique_ptr<QObject>> m_tests;
};

} // namespace ustor::testing
