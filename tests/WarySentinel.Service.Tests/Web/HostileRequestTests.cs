using System.Net;
using System.Text;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Web;

/// <summary>What a visitor, or whoever calls itself one, may send: it is answered in words, and never by a 500.</summary>
public sealed class HostileRequestTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    [Theory]
    [InlineData("GET {0} HTTP/1.1\nHost:\nConnection: close\n\n")]
    [InlineData("GET {0} HTTP/1.0\n\n")]
    public async Task A_request_that_names_no_host_is_meant_for_ours(string request)
    {
        foreach (var path in new[] { "/account/sign-in", "/shop/dealer-stock", "/nowhere", "/account/unlock" })
        {
            var answer = await RawHttp.SendAsync(site.Site, string.Format(System.Globalization.CultureInfo.InvariantCulture, request, path));
            RawHttp.StatusOf(answer).ShouldBeOneOf(200, 401, 404);
        }
    }

    [Theory]
    [InlineData("a b")]
    [InlineData("host:99999")]
    [InlineData("[::1")]
    [InlineData("..")]
    [InlineData("%00")]
    [InlineData("a/b")]
    [InlineData("user@host")]
    [InlineData("host:port")]
    [InlineData("<script>")]
    [InlineData("\u00e9")]
    public async Task A_host_that_is_none_is_refused_in_one_line(string host)
    {
        foreach (var path in new[] { "/account/sign-in", "/shop/dealer-stock", "/" })
        {
            var answer = await RawHttp.SendAsync(site.Site, $"GET {path} HTTP/1.1\nHost: {host}\nConnection: close\n\n");
            RawHttp.StatusOf(answer).ShouldBe(400, answer);
            answer.ShouldNotContain("Dealer");
            RawHttp.StatusOf(await RawHttp.SendAsync(site.Admin, $"GET /api/v1/gates HTTP/1.1\nHost: {host}\nConnection: close\n\n")).ShouldBe(400);
        }
    }

    [Theory]
    [InlineData("TRACE /shop HTTP/1.1")]
    [InlineData("TRACE /account/sign-in HTTP/1.1")]
    [InlineData("CONNECT shop:443 HTTP/1.1")]
    [InlineData("TRACK / HTTP/1.1")]
    public async Task Methods_for_proxies_are_not_served(string line)
    {
        foreach (var address in new[] { site.Site, site.Admin })
        {
            var answer = await RawHttp.SendAsync(address, $"{line}\nHost: shop:443\nX-Secret: echo\nConnection: close\n\n");
            RawHttp.StatusOf(answer).ShouldBe(405, answer);
            answer.ShouldContain("Allow: GET");
            answer.ShouldNotContain("echo");
        }
    }

    [Theory]
    [InlineData("/%00")]
    [InlineData("/shop/dealer-stock%00.css")]
    [InlineData("/account/%00")]
    [InlineData("/account/sign-in?return_to=%00")]
    [InlineData("/account/unlock?gate=%00&return_to=/%00")]
    [InlineData("/sentinel/view?ticket=%00")]
    [InlineData("/sentinel/view?ticket=%ff%fe")]
    [InlineData("/account/assets/%2e%2e")]
    [InlineData("/account/closed?return_to=/%2f")]
    public async Task A_zero_character_or_bytes_that_are_no_text_break_nothing(string path)
    {
        var answer = await RawHttp.SendAsync(site.Site, $"GET {path} HTTP/1.1\nHost: site\nConnection: close\n\n");
        RawHttp.StatusOf(answer).ShouldBeInRange(200, 499, answer);
    }

    [Fact]
    public async Task Forms_that_are_none_are_told_so()
    {
        var many = string.Join('&', Enumerable.Range(0, 4000).Select(n => $"k{n}=v"));
        var forms = new (string Type, string Body)[]
        {
            ("application/x-www-form-urlencoded", many),
            ("application/x-www-form-urlencoded", "name=%00&password=%00"),
            ("application/x-www-form-urlencoded", "name=%ff%fe&password=x"),
            ("application/x-www-form-urlencoded", new string('k', 5000) + "=v"),
            ("multipart/form-data", "--x"),
            ("multipart/form-data; boundary=x", "--x\r\nContent-Disposition: form-data\r\n\r\nx"),
            ("multipart/form-data; boundary=x", "--x\r\nContent-Disposition: form-data; name=\"name\"\r\n\r\nno end"),
            ("multipart/form-data; boundary=" + new string('b', 300), "x"),
        };
        foreach (var (type, body) in forms)
        {
            foreach (var path in new[] { "/account/sign-in", "/account/unlock", "/account/sign-out" })
            {
                var answer = await RawHttp.SendAsync(
                    site.Site, $"POST {path} HTTP/1.1\nHost: site\nContent-Type: {type}\nContent-Length: {Encoding.Latin1.GetByteCount(body)}\nConnection: "
                        + $"close\n\n" + body);
                RawHttp.StatusOf(answer).ShouldBeInRange(200, 499, $"{type} {path}\n{answer}");
            }
        }
    }

    [Fact]
    public async Task A_body_that_is_larger_than_is_taken_is_refused_before_it_is_read()
    {
        RawHttp.StatusOf(await RawHttp.SendAsync(
            site.Site, "POST /account/sign-in HTTP/1.1\nHost: site\nContent-Type: application/x-www-form-urlencoded\nContent-Length: 70000\n\n")).ShouldBe(413);
        var chunked =
            "POST /account/sign-in HTTP/1.1\r\nHost: site\r\nContent-Type: application/x-www-form-urlencoded\r\nTransfer-Encoding: chunked\r\n\r\n"
            + "12000\r\n" + new string('a', 0x12000) + "\r\n0\r\n\r\n";
        RawHttp.StatusOf(await RawHttp.SendAsync(site.Site, Encoding.ASCII.GetBytes(chunked))).ShouldBe(413);
        using var api = new Caller(site);
        var large = await api.AskAsync("POST", "gates", new { title = new string('x', 1 << 20) });
        large.Status.ShouldBe(HttpStatusCode.RequestEntityTooLarge);
        large.Body.GetProperty("detail").GetString()!.ShouldContain("1 MB");
    }

    [Theory]
    [InlineData("POST", "/api/v1/gates", "application/json")]
    [InlineData("POST", "/api/v1/items/import", "text/csv")]
    [InlineData("POST", "/api/v1/apply", "application/yaml")]
    [InlineData("POST", "/api/v1/decisions/bulk", "text/csv")]
    [InlineData("PUT", "/api/v1/settings", "application/json")]
    [InlineData("POST", "/access/v1/evaluation", "application/json")]
    public async Task Who_is_not_known_makes_the_admin_port_read_nothing(string method, string path, string type)
    {
        // The answer comes although not one byte of the body was sent.
        var head = $"{method} {path} HTTP/1.1\nHost: site\nContent-Type: {type}\nContent-Length: 200000000\n";
        RawHttp.StatusOf(await RawHttp.SendAsync(site.Admin, head + "\n")).ShouldBe(401);
        RawHttp.StatusOf(await RawHttp.SendAsync(site.Admin, head + "Authorization: Bearer wary_none\n\n")).ShouldBe(401);
        var token = (await site.Client.AddTokenAsync("no scope", ["view"], null, null, null, TestContext.Current.CancellationToken)).Token?.Reveal();
        RawHttp.StatusOf(await RawHttp.SendAsync(site.Admin, head + $"Authorization: Bearer {token}\n\n")).ShouldBe(403);
    }

    [Theory]
    [InlineData("/account/sign-in", "application/x-www-form-urlencoded")]
    [InlineData("/shop/cart", "text/plain")]
    public async Task A_body_that_comes_too_slowly_ends_in_408(string path, string type)
    {
        var answer = await RawHttp.SendAsync(
            site.Site, $"POST {path} HTTP/1.1\nHost: site\nContent-Type: {type}\nContent-Length: 1000\n\na=", TimeSpan.FromSeconds(40));
        RawHttp.StatusOf(answer).ShouldBe(408, answer);
    }

    [Theory]
    [InlineData("""{"parts":[null]}""")]
    [InlineData("""{"links":[null,"x"]}""")]
    [InlineData("""{"forms":[null]}""")]
    [InlineData("""{"parts":7}""")]
    [InlineData("[]")]
    [InlineData("null")]
    public async Task Nothing_where_something_is_meant_is_a_bad_question(string body)
    {
        using var http = new HttpClient();
        using var answer = await http.PostAsync(site.Site + "/sentinel/parts", new StringContent(body, Encoding.UTF8, "application/json"));
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }
}
