using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text.Json;

namespace WarySentinel.StandIns.Authority;

/// <summary>The addresses of a certificate authority (RFC 8555 §7.1), under TLS of its own.</summary>
public static class AcmeSite
{
    /// <summary>Builds it.</summary>
    /// <param name="authority">The authority.</param>
    /// <param name="port">Where it is listened for, on this machine.</param>
    public static WebApplication Build(AcmeAuthority authority, int port)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseKestrelHttpsConfiguration();
        builder.WebHost.ConfigureKestrel(kestrel => kestrel.ListenLocalhost(port, listen => listen.UseHttps(authority.ForItself())));
        builder.Logging.ClearProviders();
        var app = builder.Build();
        var at = $"https://localhost:{port}";
        app.MapGet("/directory", () => new
        {
            newNonce = at + "/nonce", newAccount = at + "/account", newOrder = at + "/order", revokeCert = at + "/revoke", keyChange = at + "/key",
        });
        app.MapMethods("/nonce", ["HEAD", "GET"], (HttpContext http) => Fresh(authority, http));
        app.MapPost("/account", Answering(http => SignedAsync(authority, http, at, asked => AccountAsync(authority, http, at, asked))));
        app.MapPost("/account/{id}", Answering(http => SignedAsync(authority, http, at, _ => Task.FromResult(Results.Json(new { status = "valid" })))));
        app.MapPost("/order", Answering(http => SignedAsync(authority, http, at, asked => Task.FromResult(Ordered(authority, http, at, asked)))));
        app.MapPost("/order/{id}", (string id, HttpContext http) => SignedAsync(authority, http, at, asked => OrderAsync(authority, http, at, id, asked)));
        app.MapPost("/proof/{id}/{n:int}", (string id, int n, HttpContext http) =>
            SignedAsync(authority, http, at, asked => ProofAsync(authority, at, id, n, asked, false)));
        app.MapPost("/challenge/{id}/{n:int}", (string id, int n, HttpContext http) =>
            SignedAsync(authority, http, at, asked => ProofAsync(authority, at, id, n, asked, true)));
        app.MapPost("/finalize/{id}", (string id, HttpContext http) => SignedAsync(authority, http, at, asked => FinalAsync(authority, at, id, asked)));
        app.MapPost("/certificate/{id}", (string id, HttpContext http) => SignedAsync(authority, http, at, asked => Task.FromResult(
            Mine(authority, id, asked)?.Certificate is { } pem ? Results.Text(pem, "application/pem-certificate-chain")
                : Wrong("malformed", "There is none."))));
        return app;
    }

    private static RequestDelegate Answering(Func<HttpContext, Task<IResult>> work) => async http => await (await work(http)).ExecuteAsync(http);

    private static void Fresh(AcmeAuthority authority, HttpContext http)
    {
        var nonce = Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(16));
        authority.Nonces[nonce] = true;
        http.Response.Headers["Replay-Nonce"] = nonce;
        http.Response.Headers.CacheControl = "no-store";
    }

    private static IResult Wrong(string kind, string detail, int status = 400) =>
        Results.Json(new { type = "urn:ietf:params:acme:error:" + kind, detail, status }, contentType: "application/problem+json", statusCode: status);

    private static async Task<IResult> SignedAsync(AcmeAuthority authority, HttpContext http, string at, Func<SignedRequest, Task<IResult>> work)
    {
        using var reader = new StreamReader(http.Request.Body);
        var text = await reader.ReadToEndAsync();
        Fresh(authority, http);
        if (http.Request.ContentType != "application/jose+json")
        {
            return Wrong("malformed", "A request is of the type application/jose+json.", 415);
        }

        try
        {
            if (SignedRequest.Read(text, id => authority.Accounts.TryGetValue(id, out var key) ? key : null) is not { } asked)
            {
                return Wrong("unauthorized", "The signature is not right.", 401);
            }

            // One in four is refused, though it is right: whoever asks has to try again (RFC 8555 §6.5).
            return !authority.Nonces.TryRemove(asked.Nonce, out _) || RandomNumberGenerator.GetInt32(4) == 0 ? Wrong("badNonce", "That number counts no more.")
                : asked.Url != at + http.Request.Path ? Wrong("unauthorized", "It was signed for another address.", 401)
                : await work(asked);
        }
        catch (Exception fault) when (fault is JsonException or KeyNotFoundException or InvalidOperationException or FormatException or CryptographicException)
        {
            return Wrong("malformed", fault.Message);
        }
    }

    private static Task<IResult> AccountAsync(AcmeAuthority authority, HttpContext http, string at, SignedRequest asked)
    {
        var id = SignedRequest.ThumbprintOf(asked.Key);
        var isNew = authority.Accounts.TryAdd(id, asked.Key.Clone());
        http.Response.Headers.Location = $"{at}/account/{id}";
        return Task.FromResult(Results.Json(new { status = "valid" }, statusCode: isNew ? 201 : 200));
    }

    private static IResult Ordered(AcmeAuthority authority, HttpContext http, string at, SignedRequest asked)
    {
        var names = asked.Payload.GetProperty("identifiers").EnumerateArray().Select(i => i.GetProperty("value").GetString()!).ToList();
        var order = new AcmeOrder
        {
            Id = Guid.NewGuid().ToString("N"), Account = asked.Account!, Names = names, Proofs = new string?[names.Count],
            Tokens = [.. names.Select(_ => Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(24)))],
        };
        authority.Orders[order.Id] = order;
        http.Response.Headers.Location = $"{at}/order/{order.Id}";
        return Results.Json(Told(order, at), statusCode: 201);
    }

    private static object Told(AcmeOrder order, string at) => new
    {
        status = order.Status, identifiers = order.Names.Select(n => new { type = "dns", value = n }),
        authorizations = order.Names.Select((_, n) => $"{at}/proof/{order.Id}/{n}"), finalize = $"{at}/finalize/{order.Id}",
        certificate = order.Status == "valid" ? $"{at}/certificate/{order.Id}" : null,
    };

    private static AcmeOrder? Mine(AcmeAuthority authority, string id, SignedRequest asked) =>
        authority.Orders.TryGetValue(id, out var order) && order.Account == asked.Account ? order : null;

    private static Task<IResult> OrderAsync(AcmeAuthority authority, HttpContext http, string at, string id, SignedRequest asked)
    {
        if (Mine(authority, id, asked) is not { } order)
        {
            return Task.FromResult(Wrong("malformed", "There is no such order.", 404));
        }

        order.Looked += order.Certificate is null ? 0 : 1;
        http.Response.Headers.RetryAfter = "1";
        return Task.FromResult(Results.Json(Told(order, at)));
    }

    private static async Task<IResult> ProofAsync(AcmeAuthority authority, string at, string id, int n, SignedRequest asked, bool isReady)
    {
        if (Mine(authority, id, asked) is not { } order || n >= order.Names.Count)
        {
            return Wrong("malformed", "There is no such proof.", 404);
        }

        var token = order.Tokens[n];
        if (isReady)
        {
            order.Proofs[n] = await authority.AskForProofAsync(order.Names[n], token, $"{token}.{SignedRequest.ThumbprintOf(asked.Key)}") ?? "";
        }

        var status = order.Proofs[n] switch { null => "pending", "" => "valid", _ => "invalid" };
        var error = order.Proofs[n] is { Length: > 0 } why ? new { type = "urn:ietf:params:acme:error:unauthorized", detail = why } : null;
        var challenge = new { type = "http-01", url = $"{at}/challenge/{id}/{n}", status, token, error };
        return Results.Json(isReady ? challenge : new
        {
            identifier = new { type = "dns", value = order.Names[n] }, status,
            challenges = new object[] { new { type = "dns-01", url = $"{at}/none", status = "pending", token }, challenge },
        });
    }

    private static Task<IResult> FinalAsync(AcmeAuthority authority, string at, string id, SignedRequest asked)
    {
        if (Mine(authority, id, asked) is not { } order)
        {
            return Task.FromResult(Wrong("malformed", "There is no such order.", 404));
        }

        if (order.Status != "ready")
        {
            return Task.FromResult(Wrong("orderNotReady", "Not every name is proved.", 403));
        }

        order.Certificate = authority.Issue(Base64Url.DecodeFromChars(asked.Payload.GetProperty("csr").GetString()!), order.Names);
        return Task.FromResult(order.Certificate is null ? Wrong("badCSR", "It is not for the names of the order.") : Results.Json(Told(order, at)));
    }
}
