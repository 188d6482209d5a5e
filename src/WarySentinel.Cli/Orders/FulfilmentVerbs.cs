using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Orders;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Orders;

/// <summary><c>wary fulfilment list|set|try|remove</c> and <c>wary order-source list|set|secret|try|remove</c>.</summary>
internal static class FulfilmentVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The rule's key." };
    private static readonly Argument<string> SourceKey = new("key") { Description = "The source's key." };
    private static readonly Option<string> Code = new("--code")
    {
        Description = "The stock code; * stands for anything, CODE/VARIANT is one variant.",
        Required = true
    };
    private static readonly Option<string[]> Gives = new("--gives")
    { Description = "What it gives: plan:, role:, group:, bought: or pass: with a key; may be said again." };
    private static readonly Option<string?> Gate = new("--gate") { Description = "The gate whose shared password the letter tells (way shared-password)." };
    private static readonly Option<string?> Length = new("--length") { Description = "For how long, such as P30D; as long as each plan lasts unless said." };
    private static readonly Option<string?> Trial = new("--trial")
    { Description = "What the first payment pays for in place of that, such as P7D, to try it." };
    private static readonly Option<string?> Way = new("--way")
    {
        Description = "account (a link to set a password), password (one is told), link (the address of a folder, no account) or shared-password (a gate's).",
    };

    private static readonly Option<string?> Quantity = new("--quantity")
    { Description = "What the quantity means: nothing, lengths, or seats of an organisation." };
    private static readonly Option<int?> Most = new("--most") { Description = "How often one person is given it." };
    private static readonly Option<string?> LandsOn = new("--lands-on") { Description = "The page that the letter leads to." };
    private static readonly Option<string[]> Codes = new("--code")
    {
        Description = "What is bought, such as PATRON or NIGHT=3; may be said again.",
        Required = true
    };
    private static readonly Option<string?> Email = new("--email") { Description = "Who buys; somebody without an account unless said." };
    private static readonly Option<string?> Title = new("--title") { Description = "What people call it." };
    private static readonly Option<string?> Proof = new("--proof") { Description = "How its calls are signed: standard, body, timestamp-body or token." };
    private static readonly Option<string?> Header = new("--header") { Description = "The header that the proof stands in." };
    private static readonly Option<string?> TimestampHeader = new("--timestamp-header") { Description = "The header that the timestamp stands in." };
    private static readonly Option<string?> Prefix = new("--prefix") { Description = "What stands before the proof, such as sha256=." };
    private static readonly Option<bool> Base64 = new("--base64") { Description = "The HMAC is in Base64, not in hexadecimal." };
    private static readonly Option<bool> Sha512 = new("--sha512") { Description = "It is HMAC-SHA512, not HMAC-SHA256." };
    private static readonly Option<string[]> Fields = new("--field")
    { Description = "Where a field stands, such as order=/data/id (JSON Pointer); may be said again." };
    private static readonly Option<string[]> Kinds = new("--kind")
    { Description = "What a value of the kind means, such as charge.ok=order.paid; may be said again." };
    private static readonly Option<bool> InUnits = new("--in-units") { Description = "Amounts are in the smallest unit, such as cents." };
    private static readonly Option<string?> Currency = new("--currency") { Description = "The currency where no field says it." };
    private static readonly Option<string?> Checkout = new("--checkout") { Description = "Its page for paying; {code}, {token} and {return} are filled in." };
    private static readonly Option<bool> OpensDoor = new("--opens-door") { Description = "Let the browser that paid go in at once." };
    private static readonly Option<string?> Secret = new("--secret") { Description = "One that the other side has made; a new one is made unless said." };
    private static readonly Option<bool> AtOnce = new("--at-once") { Description = "The one before counts no longer; for a day yet unless said." };
    private static readonly Option<FileInfo> Example = new("--example") { Description = "A file with an example of a call.", Required = true };

    private static Option[] Scheme => [Title, Proof, Header, TimestampHeader, Prefix, Base64, Sha512, Fields, Kinds, InUnits, Currency, Checkout, OpensDoor];

    public static Command Build()
    {
        var rules = new Command("fulfilment", "What orders give, by their stock codes.");
        rules.Subcommands.Add(new Command("list", "All rules, as sentences.").Does(async call => call.Out.Table(
            await call.Client.FulfilmentAsync(call.Stop), "No rules yet: orders wait for you.", ("key", r => r.Key), ("code", r => r.Code),
                ("what it says", r => r.Sentence))));
        rules.Subcommands.Add(With(With(new Command("set", "Add a rule, or change one."), Key), Code, Gives, Length, Trial, Way, Quantity, Most, LandsOn, Gate)
            .Does(async call =>
        {
            var put = await call.Client.PutFulfilmentAsync(
                call.Get(Key), new FulfilmentDraft
                {
                    Code = call.Get(Code), Gives = call.Get(Gives), Length = call.Get(Length), Trial = call.Get(Trial), Way = call.Get(Way),
                    Quantity = call.Get(Quantity),
                    Most = call.Get(Most), LandsOn = call.Get(LandsOn), Gate = call.Get(Gate),
                },
                call.Stop);
            return call.Out.Say(put, Markup.Escape(put.Sentence));
        }));
        rules.Subcommands.Add(With(new Command("try", "Say what an order would do. Nothing is changed."), Codes, Email).Does(async call =>
        {
            var tried = await call.Client.TryFulfilmentAsync(new FulfilmentTrial(OrderVerbs.Lines(call.Get(Codes)), call.Get(Email)), call.Stop);
            return call.Out.Give(tried, to => tried.Would.ToList().ForEach(to.WriteLine));
        }));
        rules.Subcommands.Add(With(new Command("remove", "Remove a rule. What orders were promised by it stays."), Key).Does(async call =>
        {
            await call.Client.RemoveFulfilmentAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the rule [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        return rules;
    }

    public static Command BuildSources()
    {
        var sources = new Command("order-source", "Who tells of orders by web hook: payment processors, shops.");
        sources.Subcommands.Add(new Command("list", "All sources.").Does(async call => call.Out.Table(
            await call.Client.OrderSourcesAsync(call.Stop), "Nobody tells of orders yet.", ("key", s => s.Key), ("title", s => s.Title),
                ("web hook", s => s.Hook),
            ("signed", s => s.Proof), ("secret", s => s.HasSecret ? "yes" : "none: believed nothing"),
                ("read as", s => s.Fields.Count == 0 ? "CloudEvents" : "mapped"),
            ("checkout", s => s.Checkout ?? ""))));
        sources.Subcommands.Add(With(With(new Command("set", "Add a source, or change one."), SourceKey), Scheme).Does(async call =>
        {
            var put = await call.Client.PutOrderSourceAsync(call.Get(SourceKey), DraftOf(call), call.Stop);
            return call.Out.Say(put, $"{Markup.Escape(put.Title)} tells of orders at [bold]{Markup.Escape(put.Hook)}[/]."
                + (put.HasSecret ? "" : $" Give it a secret: wary order-source secret {Markup.Escape(put.Key)}"));
        }));
        sources.Subcommands.Add(With(With(new Command("secret", "Give a source a secret. It is told this once."), SourceKey), Secret, AtOnce).Does(async call =>
        {
            var told = await call.Client.RekeyOrderSourceAsync(call.Get(SourceKey), new SourceSecretDraft(call.Get(Secret), call.Get(AtOnce)), call.Stop);
            return call.Out.Whole(told, told.Secret);
        }));
        sources.Subcommands.Add(With(new Command("try", "Say what would be read in an example. Nothing is changed."), [Example, .. Scheme]).Does(async call =>
        {
            var example = await File.ReadAllTextAsync(call.Get(Example)!.FullName, call.Stop);
            var tried = await call.Client.TryMappingAsync(new MappingTrial(DraftOf(call), example), call.Stop);
            return call.Out.Give(tried, to =>
            {
                to.WriteLine(tried.Kind ?? (tried.Faults.Count > 0 ? "It cannot be read:" : "It is to be ignored."));
                tried.Read.ToList().ForEach(r => to.WriteLine($"  {r.Key}: {r.Value}"));
                tried.Faults.ToList().ForEach(f => to.WriteLine("  " + f));
            });
        }));
        sources.Subcommands.Add(With(new Command("remove", "Remove a source. Its orders stay."), SourceKey).Does(async call =>
        {
            await call.Client.RemoveOrderSourceAsync(call.Get(SourceKey), call.Stop);
            return call.Out.Say(new { removed = call.Get(SourceKey) }, $"Removed the source [bold]{Markup.Escape(call.Get(SourceKey))}[/].");
        }));
        return sources;
    }

    private static OrderSourceDraft DraftOf(Call call) => new()
    {
        Title = call.Get(Title), Proof = call.Get(Proof), Header = call.Get(Header), TimestampHeader = call.Get(TimestampHeader), Prefix = call.Get(Prefix),
        Base64 = call.Get(Base64), Sha512 = call.Get(Sha512), Fields = Pairs(call.Get(Fields)), Kinds = Pairs(call.Get(Kinds)), InUnits = call.Get(InUnits),
        Currency = call.Get(Currency), Checkout = call.Get(Checkout), OpensDoor = call.Get(OpensDoor),
    };

    private static Dictionary<string, string>? Pairs(string[]? said) => said is null ? null
        : said.Select(s => s.Split('=', 2)).Where(p => p.Length == 2).GroupBy(p => p[0], StringComparer.Ordinal)
            .ToDictionary(p => p.Key, p => p.Last()[1], StringComparer.Ordinal);
}
