#include "palio/serve/serve.hpp"

#include <httplib.h>

#include <atomic>
#include <chrono>
#include <mutex>
#include <random>
#include <thread>

namespace palio::serve {
namespace {

constexpr const char* kHost = "127.0.0.1";
constexpr std::size_t kLongestBody = 1 << 20;  // a pasted job; longest of any by far
constexpr int kThreads = 24, kMostListeners = 12;
constexpr double kBurst = 400, kPerSecond = 200;  // requests

/// 128 bits from the system, in hexadecimal digits.
std::string secret() {
  std::random_device device;
  std::string text;
  for (int i = 0; i < 4; ++i) {
    const auto bits = static_cast<std::uint32_t>(device());
    for (int shift = 28; shift >= 0; shift -= 4)
      text += "0123456789abcdef"[(bits >> shift) & 15];
  }
  return text;
}

/// How often one may ask: a bucket that fills evenly.
class Pace {
 public:
  bool allows() {
    const std::lock_guard<std::mutex> guard(lock_);
    const auto now = std::chrono::steady_clock::now();
    left_ = std::min(kBurst, left_ + kPerSecond * std::chrono::duration<double>(now - at_).count());
    at_ = now;
    if (left_ < 1) return false;
    left_ -= 1;
    return true;
  }

 private:
  std::mutex lock_;
  double left_ = kBurst;
  std::chrono::steady_clock::time_point at_ = std::chrono::steady_clock::now();
};

void refuse(httplib::Response& response, int status, const char* why) {
  response.status = status;
  response.set_content(std::string(why) + "\n", "text/plain; charset=utf-8");
}

class Listening : public Server {
 public:
  Listening(const Answering& answer, const News& news) : answer_(answer), news_(news) {}
  ~Listening() override { stop(); }
  Listening(const Listening&) = delete;
  Listening& operator=(const Listening&) = delete;

  bool listen(int port) {
    // A port that another holds is not shared with it, as the library would have it.
    server_.set_socket_options([](socket_t socket) {
      const int yes = 1;
      setsockopt(socket, SOL_SOCKET, SO_REUSEADDR, &yes, sizeof yes);
    });
    port_ = port == 0 ? server_.bind_to_any_port(kHost) : server_.bind_to_port(kHost, port) ? port : -1;
    if (port_ <= 0) return false;
    server_.new_task_queue = [] { return new httplib::ThreadPool(kThreads); };
    server_.set_tcp_nodelay(true);
    server_.set_payload_max_length(kLongestBody);
    server_.set_keep_alive_max_count(1000);
    server_.set_default_headers({
        {"Cache-Control", "no-store"},
        {"X-Content-Type-Options", "nosniff"},
        {"Referrer-Policy", "no-referrer"},
        {"Cross-Origin-Resource-Policy", "same-origin"},
        {"Cross-Origin-Opener-Policy", "same-origin"},
        {"Content-Security-Policy",
         "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; img-src data: blob:; connect-src "
         "'self'; frame-src 'self'; frame-ancestors 'self'; base-uri 'none'; form-action 'none'"},
    });
    server_.set_pre_routing_handler([this](const httplib::Request& request, httplib::Response& response) {
      return admitted(request, response) ? httplib::Server::HandlerResponse::Unhandled
                                         : httplib::Server::HandlerResponse::Handled;
    });
    const auto hear = [this](const httplib::Request& request, httplib::Response& response) { tell(request, response); };
    server_.Get("/" + secret_ + "/news",
                [this](const httplib::Request&, httplib::Response& response) { listen_to_news(response); });
    server_.Get("/" + secret_ + "/.*", hear);
    server_.Post("/" + secret_ + "/.*", hear);
    thread_ = std::thread([this] { server_.listen_after_bind(); });
    // Stopped before it listens, it would listen for ever.
    while (!server_.is_running())
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
    return true;
  }

  int port() const override { return port_; }
  std::string address() const override { return origin(kHost) + "/" + secret_ + "/"; }
  void stop() override {
    if (stopping_.exchange(true)) return;
    // Those who wait hear of it within a second.
    for (int i = 0; i < 30 && listeners_ > 0; ++i)
      std::this_thread::sleep_for(std::chrono::milliseconds(50));
    server_.stop();
    if (thread_.joinable()) thread_.join();
  }

 private:
  std::string origin(const std::string& host) const { return "http://" + host + ":" + std::to_string(port_); }

  /// A page of another origin can make a browser ask here, by this name or by one that it has bound to this machine:
  /// its Host or its Origin tells. The secret is not told to other pages.
  bool admitted(const httplib::Request& request, httplib::Response& response) {
    const std::string host = request.get_header_value("Host"), from = request.get_header_value("Origin");
    const std::string site = request.get_header_value("Sec-Fetch-Site");
    const auto own = [&](const std::string& text, const std::string& before) {
      return text == before + kHost + ":" + std::to_string(port_) ||
             text == before + "localhost:" + std::to_string(port_);
    };
    if (!pace_.allows()) return refuse(response, 429, "too many requests"), false;
    if (!own(host, "")) return refuse(response, 421, "this is not the address of the desk"), false;
    if (request.path.compare(0, secret_.size() + 2, "/" + secret_ + "/") != 0)
      return refuse(response, 404, "nothing is here; open the address that palio desk printed"), false;
    if (request.method != "GET" && request.method != "POST")
      return refuse(response, 405, "only GET and POST are answered"), false;
    const bool posts = request.method == "POST";
    if ((posts || !from.empty()) && !own(from, "http://"))
      return refuse(response, 403, "asked from another page"), false;
    if (posts && !site.empty() && site != "same-origin") return refuse(response, 403, "asked from another page"), false;
    if (posts && request.get_header_value("Content-Type").compare(0, 16, "application/json") != 0)
      return refuse(response, 415, "only application/json is taken"), false;
    return true;
  }

  void tell(const httplib::Request& request, httplib::Response& response) const {
    Request asked{request.method, request.path.substr(secret_.size() + 1), {}, request.body};
    for (const auto& [name, value] : request.params)
      asked.query[name] = value;
    const Answer answer = answer_(asked);
    response.status = answer.status;
    // By pieces: what is given whole, the library compresses first, and that takes longer than all else.
    const auto body = std::make_shared<const std::string>(answer.body);
    response.set_content_provider(body->size(), answer.type,
                                  [body](std::size_t from, std::size_t length, httplib::DataSink& sink) {
                                    return sink.write(body->data() + from, length);
                                  });
  }

  void listen_to_news(httplib::Response& response) {
    if (++listeners_ > kMostListeners) {
      --listeners_;
      return refuse(response, 503, "too many pages are open");
    }
    const auto seen = std::make_shared<long>(0);
    response.set_chunked_content_provider(
        "text/event-stream",
        [this, seen](std::size_t, httplib::DataSink& sink) {
          if (stopping_) {
            const std::string end = "event: stopped\ndata: {}\n\n";
            sink.write(end.data(), end.size());
            sink.done();
            return true;
          }
          const std::string news = news_(*seen);
          const std::string text = news.empty() ? ": waiting\n\n" : "data: " + news + "\n\n";
          return sink.write(text.data(), text.size());
        },
        [this](bool) { --listeners_; });
  }

  Answering answer_;
  News news_;
  std::string secret_ = secret();
  httplib::Server server_;
  std::thread thread_;
  Pace pace_;
  std::atomic<bool> stopping_{false};
  std::atomic<int> listeners_{0};
  int port_ = -1;
};

}  // namespace
}  // namespace palio::serve

extern "C" palio::serve::Server* palio_serve(int port, const palio::serve::Answering* answer,
                                             const palio::serve::News* news, std::string* error) {
  auto server = std::make_unique<palio::serve::Listening>(*answer, *news);
  if (server->listen(port)) return server.release();
  *error = "port " + std::to_string(port) + " is taken; leave out --port and a free one is found";
  return nullptr;
}
