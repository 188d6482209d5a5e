using System.Globalization;
using System.Text.Encodings.Web;

namespace WarySentinel.StandIns.Payments;

/// <summary>The pages of the payment processor: where buyers pay, and where what happens to orders later is made to happen.</summary>
public static class PaymentSite
{
    private static readonly (string Act, string Words)[] Acts =
    [
        ("renew", "Renew"), ("renewal-failed", "Fail a renewal"), ("cancel", "Cancel at the end"), ("end", "End now"), ("refund", "Refund all"),
        ("refund-part", "Refund a part"), ("charge-back", "Charge back"), ("pause", "Pause"), ("resume", "Resume"),
    ];

    /// <summary>Builds the site.</summary>
    public static WebApplication Build(PaymentDesk desk, string listen)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls(listen);
        var app = builder.Build();
        app.MapGet("/", () => Page("Payments", Desk(desk)));
        app.MapGet("/checkout", (HttpContext http) => Page("Pay", Checkout(http.Request.Query)));
        app.MapPost("/checkout", async (HttpRequest request) => Pay(desk, await request.ReadFormAsync()));
        app.MapPost("/orders/{id}/{act}", async (string id, string act, HttpContext http) => Act(desk, id, act, http.Request.HasFormContentType
            ? await http.Request.ReadFormAsync() : null));
        app.MapPost("/mischief", async (HttpRequest request) =>
        {
            var form = await request.ReadFormAsync();
            desk.Repeats = Number(form["repeats"], 1);
            desk.DelayMilliseconds = Number(form["delay"], 0);
            desk.Holds = form["holds"] == "yes";
            return Results.Redirect("/");
        });
        app.MapPost("/release", () =>
        {
            desk.Release();
            return Results.Redirect("/");
        });
        app.MapGet("/orders.json", () => desk.Orders.Select(o => new { o.Id, o.Code, o.Email, o.Story }));
        return app;
    }

    private static IResult Pay(PaymentDesk desk, IFormCollection form)
    {
        var (code, back) = (form["code"].ToString(), form["return"].ToString());
        var paid = form["outcome"] != "fail";
        string? Said(string field) => form[field].ToString() is { Length: > 0 } text ? text : null;
        var order = desk.Take(
            id => new PaymentOrder
            {
                Id = id, Code = code, Quantity = Math.Max(1, Number(form["quantity"], 1)), Cents = PaymentDesk.PriceOf(code), Email = form["email"].ToString(),
                Name = Said("name"), GiftEmail = Said("giftEmail"), GiftOn = Said("giftOn"), GiftWords = Said("giftWords"), Token = Said("token"),
            },
            paid);
        return Uri.TryCreate(back, UriKind.Absolute, out var address) && address.Scheme is "http" or "https" ? Results.Redirect(back)
            : Results.Content(Page(paid ? "Paid" : "Not paid", $"<p>Order <b>{E(order.Id)}</b></p>").Body, "text/html; charset=utf-8");
    }

    private static IResult Act(PaymentDesk desk, string id, string act, IFormCollection? form)
    {
        if (desk.Find(id) is not { } order)
        {
            return Results.NotFound();
        }

        var whole = order.Cents * order.Quantity;
        switch (act)
        {
            case "renew":
                desk.Tell(order, "order.renewed", whole);
                break;
            case "renewal-failed":
                desk.Tell(order, "order.renewal-failed", whole);
                break;
            case "cancel":
                desk.Tell(order, "order.cancelled");
                break;
            case "end":
                desk.Tell(order, "order.ended");
                break;
            case "refund":
                desk.Tell(order, "order.refunded");
                break;
            case "refund-part":
                desk.Tell(order, "order.refunded", Number(form?["cents"], whole / 2));
                break;
            case "pause":
                desk.Tell(order, "order.paused");
                break;
            case "resume":
                desk.Tell(order, "order.resumed");
                break;
            case "change" when form is not null && form["code"].ToString() is { Length: > 0 } code:
                desk.Change(order, code, Number(form["cents"].ToString(), 0) is > 0 and var more ? more : null);
                break;
            case "charge-back":
                desk.Tell(order, "order.charged-back");
                break;
            default:
                return Results.NotFound();
        }

        return Results.Redirect("/");
    }

    private static string Checkout(IQueryCollection query)
    {
        var code = query["code"].ToString();
        return $"""
            <p class="sum">{E(code)} <b>€ {(PaymentDesk.PriceOf(code) / 100m).ToString("F2", CultureInfo.InvariantCulture)}</b></p>
            <form method="post" action="/checkout">
            <input type="hidden" name="code" value="{E(code)}"><input type="hidden" name="token" value="{E(query["token"])}">
            <input type="hidden" name="return" value="{E(query["return"])}">
            <label>E-mail <input name="email" type="email" required></label><label>Name <input name="name"></label>
            <label>How many <input name="quantity" type="number" min="1" value="1"></label>
            <details><summary>It is a present</summary><label>For (e-mail) <input name="giftEmail" type="email"></label>
            <label>On <input name="giftOn" type="date"></label><label>Words <input name="giftWords"></label></details>
            <p><button name="outcome" value="pay">Pay</button> <button class="quiet" name="outcome" value="fail">Let it fail</button></p></form>
            """;
    }

    private static string Desk(PaymentDesk desk) => $"""
        <form class="row" method="post" action="/mischief">
        <label>Each call <input name="repeats" type="number" value="{desk.Repeats}" min="1" max="20"> times</label>
        <label>late by up to <input name="delay" type="number" value="{desk.DelayMilliseconds}" min="0"> ms</label>
        <label><input type="checkbox" name="holds" value="yes" {(desk.Holds ? "checked" : "")}> hold them</label><button>Set</button></form>
        <form method="post" action="/release"><button class="quiet">Let held calls go, mixed up</button></form>
        <table><thead><tr><th>Order</th><th>What</th><th>Who</th><th>Story</th><th></th></tr></thead><tbody>
        {string.Concat(desk.Orders.Select(o => $"<tr><td>{E(o.Id)}</td><td>{E(o.Code)}</td><td>{E(o.Email)}</td><td>{E(string.Join(", ", o.Story))}</td><td>"
            + string.Concat(Acts.Select(a => $"<form method=\"post\" action=\"/orders/{E(o.Id)}/{a.Act}\"><button class=\"quiet\">{a.Words}</button></form>"))
            + $"<form method=\"post\" action=\"/orders/{E(o.Id)}/change\"><input name=\"code\" size=\"10\" aria-label=\"Another code\"><button "
            + "class=\"quiet\">Change</button></form></td></tr>"))}
        </tbody></table><h2>Calls</h2><pre>{E(string.Join('\n', desk.Sent))}</pre>
        """;

    private static HtmlPage Page(string title, string inner) => new($$"""
        <!doctype html><html lang="en"><head><meta charset="utf-8"><title>{{E(title)}}</title>
        <meta name="viewport" content="width=device-width, initial-scale=1">
        <style>body{font:16px/1.5 ui-sans-serif,system-ui,sans-serif;max-width:64rem;margin:3rem auto;padding:0 1rem;color:#1c2a2a;background:#eef2f0}
        main{background:#fff;border-radius:4px;padding:2rem}label{display:block;margin:.6rem 0}input{font:inherit;padding:.4rem;border:1px solid #9ab}
        button{font:inherit;padding:.5rem 1rem;border:0;border-radius:3px;background:#16616b;color:#fff}
        button.quiet{background:#dde7e5;color:#1c2a2a;padding:.2rem .5rem}
        table{width:100%;border-collapse:collapse;font-size:.9rem}td,th{text-align:left;padding:.4rem;border-bottom:1px solid #dde;vertical-align:top}
        td form{display:inline}.row label{display:inline-block;margin-right:1rem}.sum{font-size:1.3rem}</style></head>
        <body><main><h1>{{E(title)}}</h1>{{inner}}<p><small>A stand-in: no money moves here, and no card is asked for.</small></p></main></body></html>
        """);

    private static int Number(string? text, int otherwise) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : otherwise;

    private static string E(string? text) => HtmlEncoder.Default.Encode(text ?? "");

    private sealed record HtmlPage(string Body) : IResult
    {
        public Task ExecuteAsync(HttpContext httpContext)
        {
            httpContext.Response.ContentType = "text/html; charset=utf-8";
            return httpContext.Response.WriteAsync(Body);
        }
    }
}
