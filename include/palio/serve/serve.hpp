// A small HTTP server for one person's own browser: this machine alone, behind a secret address. A module of its own
// carries the library; it is loaded when a desk is asked for. What is asked and answered is for whoever hands over the
// two functions.
#pragma once

#include <functional>
#include <map>
#include <string>

namespace palio::serve {

struct Request {
  std::string method;  ///< "GET" or "POST"
  std::string path;    ///< behind the secret: "/state"
  std::map<std::string, std::string> query;
  std::string body;
};

struct Answer {
  int status = 200;
  std::string type = "application/json";
  std::string body;
};

/// Called from several threads at once; must not throw.
using Answering = std::function<Answer(const Request&)>;
/// Waits for up to a second for news after number `seen`, which is raised to that of the news; an empty text: none yet.
using News = std::function<std::string(long& seen)>;

/// Asked for at another address, without the secret, from another page, too long, or too often: refused before the
/// functions hear of it.
class Server {
 public:
  virtual ~Server() = default;
  virtual int port() const = 0;
  /// "http://127.0.0.1:PORT/SECRET/"
  virtual std::string address() const = 0;
  /// Those who wait for news are told that it is over.
  virtual void stop() = 0;
};

}  // namespace palio::serve

/// Entry for loading at run time: listens, and answers in threads of its own until stopped. Null and an error where the
/// port is taken. \param port  0: any that is free
extern "C" palio::serve::Server* palio_serve(int port, const palio::serve::Answering* answer,
                                             const palio::serve::News* news, std::string* error);
