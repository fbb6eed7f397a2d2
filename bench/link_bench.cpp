// The fieldbus against what it cannot be faster than: a request against an echo of as many bytes over the same kind of
// connection, and a thousand points brought to the registers against copying as many values.
//
// BM_Echo, BM_Request: one round trip on loopback; the ratio says what the protocol and the tables cost.
// BM_Copy, BM_Publish: a thousand INT tags; the work of one scan of a plant that others look at. Linear in the tags.
#include <arpa/inet.h>
#include <benchmark/benchmark.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <sys/socket.h>
#include <unistd.h>

#include <array>
#include <thread>

#include "link/client.hpp"
#include "link/server.hpp"

namespace {

using namespace vyard;

constexpr int kPoints = 1000;

std::vector<link::Cell> cells() {
    std::vector<link::Cell> out;
    for (std::uint32_t i = 0; i < kPoints; ++i)
        out.push_back({{controller::RegisterArea::Holding, i}, logic::Elementary::Int, true});
    return out;
}

/// Sends back what comes, until the other end closes.
class Echo {
  public:
    Echo() : socket_(::socket(AF_INET, SOCK_STREAM, 0)) {
        sockaddr_in at{};
        at.sin_family = AF_INET;
        at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        socklen_t length = sizeof at;
        if (::bind(socket_, reinterpret_cast<const sockaddr*>(&at), sizeof at) != 0 || ::listen(socket_, 1) != 0 ||
            ::getsockname(socket_, reinterpret_cast<sockaddr*>(&at), &length) != 0)
            std::abort();
        thread_ = std::thread([this] {
            const int other = ::accept(socket_, nullptr, nullptr);
            const int one = 1;
            ::setsockopt(other, IPPROTO_TCP, TCP_NODELAY, &one, sizeof one);
            std::array<char, 512> bytes{};
            for (ssize_t got = 0; (got = ::recv(other, bytes.data(), bytes.size(), 0)) > 0;) {
                if (::send(other, bytes.data(), static_cast<std::size_t>(got), MSG_NOSIGNAL) < 0) break;
            }
            ::close(other);
        });
        mine_ = ::socket(AF_INET, SOCK_STREAM, 0);
        if (::connect(mine_, reinterpret_cast<const sockaddr*>(&at), sizeof at) != 0) std::abort();
        const int one = 1;
        ::setsockopt(mine_, IPPROTO_TCP, TCP_NODELAY, &one, sizeof one);
    }
    ~Echo() {
        ::close(mine_);
        thread_.join();
        ::close(socket_);
    }
    void trip(std::span<char> bytes) {
        if (::send(mine_, bytes.data(), bytes.size(), 0) < 0) std::abort();
        std::size_t got = 0;
        while (got < bytes.size())
            got += static_cast<std::size_t>(::recv(mine_, bytes.data() + got, bytes.size() - got, 0));
    }

  private:
    int socket_, mine_ = -1;
    std::thread thread_;
};

void BM_Echo(benchmark::State& state) {
    Echo echo;
    std::array<char, 259> bytes{};
    for (auto _ : state) echo.trip(bytes);
}
BENCHMARK(BM_Echo)->UseRealTime();

void BM_Request(benchmark::State& state) {
    std::string problem;
    const auto tables = std::make_shared<link::Tables>(cells(), -1);
    link::Server server({"127.0.0.1", 0, {}, 8, 0}, {{1, tables}}, problem);
    link::Client client("127.0.0.1", server.port(), 1, cells());
    if (!problem.empty() || !client.connect(std::chrono::seconds(1))) std::abort();
    std::vector<int> which;
    for (int i = 0; i < 125; ++i) which.push_back(i);
    const auto blocks = link::blocks_of(cells(), which, false);
    std::vector<logic::Value> values;
    std::vector<double> times;
    for (auto _ : state) {
        const auto begin = std::chrono::steady_clock::now();
        if (!client.read(blocks, values)) std::abort();
        times.push_back(std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count());
    }
    std::sort(times.begin(), times.end());
    state.counters["p99_ms"] = times[times.size() * 99 / 100];
}
BENCHMARK(BM_Request)->UseRealTime();

void BM_Copy(benchmark::State& state) {
    std::vector<std::uint16_t> from(kPoints, 3), to(kPoints);
    for (auto _ : state) {
        std::copy(from.begin(), from.end(), to.begin());
        benchmark::DoNotOptimize(to.data());
        benchmark::ClobberMemory();
    }
}
BENCHMARK(BM_Copy);

void BM_Publish(benchmark::State& state) {
    link::Tables tables(cells(), -1);
    std::vector<int> which;
    for (int i = 0; i < kPoints; ++i) which.push_back(i);
    const std::vector<logic::Value> values(kPoints, {logic::Elementary::Int, 3, {}});
    for (auto _ : state) tables.publish(which, values, 0);
}
BENCHMARK(BM_Publish);

}  // namespace

BENCHMARK_MAIN();
