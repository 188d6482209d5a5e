using System.Text;
using System.Text.Json;
using WarySentinel.Core;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>What came of an event that was told.</summary>
/// <param name="Kept">The event.</param>
/// <param name="IsNew">Whether it was not known before.</param>
public sealed record ToldEvent(KeptEvent Kept, bool IsNew);

/// <summary>
/// Keeps what is told of orders before anything is done about it: whoever tells is answered once it is stored, and from there on it is taken up whatever
/// happens. What cannot be read is kept too, and waits for somebody to say how.
/// </summary>
public sealed class OrderIntake(Store store, PeopleLane people, PolicyHolder policies, Secrets secrets, OrderBell bell, TimeProvider time)
{
    /// <summary>Longest body of a web hook, in bytes.</summary>
    public const int MostBytes = 256 * 1024;

    /// <summary>Keeps an event; where it can be read it is taken up at once.</summary>
    public async Task<ToldEvent> KeepAsync(KeptEvent kept, string by, CancellationToken stop)
    {
        if (await store.OrderEventAsync(kept.Source, kept.Name, stop) is { } known)
        {
            return new ToldEvent(known, false);
        }

        var subject = $"{kept.Source}:{kept.Event?.Order ?? kept.Name}";
        var said = kept.Event is { } told ? OrderEvent.NameOf(told.Kind) : "order.unreadable";
        try
        {
            var stored = await store.ApplyAsync(new Edit("order.told", subject, [new OrderEventAdded(kept)], null, said), by, stop: CancellationToken.None);
            people.Tell(stored.News);
        }
        catch (StoreMovedException)
        {
            // The same was told at the same moment.
            return await store.OrderEventAsync(kept.Source, kept.Name, stop) is { } twin ? new ToldEvent(twin, false) : throw new StoreMovedException();
        }

        if (kept.Event is not null)
        {
            bell.Ring(kept.Source, kept.Event.Order);
        }

        return new ToldEvent(kept, true);
    }

    /// <summary>
    /// What a call of a source says: one event, or each of a batch (CloudEvents 1.0, JSON event format §4), so that one that cannot be read keeps none of the
    /// others waiting.
    /// </summary>
    /// <param name="source">Whose call it is.</param>
    /// <param name="body">What came.</param>
    /// <param name="isForm">Whether it is the fields of a form.</param>
    /// <param name="message">The name of the message, where it has one of its own.</param>
    public IReadOnlyList<KeptEvent> ReadAll(OrderSource source, byte[] body, bool isForm, string? message)
    {
        if (isForm || BatchOf(body) is not { } batch)
        {
            return Read(source, body, isForm, message) is { } one ? [one] : [];
        }

        // A CloudEvent has a name of its own; what is mapped may have none but that of its call.
        string? NameOf(int n) => source.Mapping is null || message is null ? null : $"{message}#{n + 1}";
        return [.. batch.Select((each, n) => Read(source, Encoding.UTF8.GetBytes(each), false, NameOf(n))).OfType<KeptEvent>()];
    }

    /// <summary>The events of a batch, a text each; null where it is none.</summary>
    private static List<string>? BatchOf(byte[] body)
    {
        try
        {
            using var json = JsonDocument.Parse(body, new JsonDocumentOptions { MaxDepth = 33 });
            return json.RootElement.ValueKind == JsonValueKind.Array ? [.. json.RootElement.EnumerateArray().Select(e => e.GetRawText())] : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>What a call of a source says, kept apart from whether it can be read; null where it is none of our business.</summary>
    /// <param name="source">Whose call it is.</param>
    /// <param name="body">What came.</param>
    /// <param name="isForm">Whether it is the fields of a form.</param>
    /// <param name="message">The name of the message, where it has one of its own.</param>
    public KeptEvent? Read(OrderSource source, byte[] body, bool isForm, string? message)
    {
        var now = Now;
        var text = Utf8(body);
        var fallback = message is { Length: > 0 and <= EventReading.LongestName } && PlainText.IsClean(message) ? message
            : Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(body));
        var read = Read(source, text, isForm, fallback, now);
        return read.Problem is { } problem
            ? new KeptEvent(Guid.CreateVersion7(), source.Key, fallback, now, OrderEventState.Unreadable, null, text, FaultOf(problem))
            : read.Value is { } told ? new KeptEvent(Guid.CreateVersion7(), source.Key, told.Id, now, OrderEventState.Waiting, told, text) : null;
    }

    /// <summary>Reads what waited again, by how its source is set up now.</summary>
    public async Task<Outcome<KeptEvent>> ReadAgainAsync(Guid id, string by, CancellationToken stop)
    {
        var outcome = await people.ChangeAsync<KeptEvent>(
            async () =>
            {
                if (await store.OrderEventAsync(id, stop) is not { } kept)
                {
                    return Problem.Of(ProblemKind.NotFound, "order-event-unknown");
                }

                if (kept.State != OrderEventState.Unreadable || kept.Raw is null || OrderSourceBook.Of(policies.Current).Find(kept.Source) is not { } source)
                {
                    return Problem.Of(ProblemKind.Conflict, "order-event-done");
                }

                var read = Read(source, kept.Raw, !kept.Raw.TrimStart().StartsWith('{'), kept.Name, kept.ReceivedAt);
                if (read.Problem is { } problem)
                {
                    return problem;
                }

                var after = read.Value is { } told ? kept with { State = OrderEventState.Waiting, Event = told, Fault = null } : kept;
                IReadOnlyList<Change> changes = read.Value is null ? [new OrderEventDropped(kept)] : [new OrderEventRead(after)];
                return new Edit<KeptEvent>(new Edit("order.read", $"{kept.Source}:{after.Event?.Order ?? kept.Name}", changes), after);
            },
            by);
        if (outcome.Problem is null && outcome.Value.Event is { } read)
        {
            bell.Ring(outcome.Value.Source, read.Order);
        }

        return outcome;
    }

    /// <summary>Drops what cannot be read.</summary>
    public Task<Outcome<KeptEvent>> DropAsync(Guid id, string by, CancellationToken stop) => people.ChangeAsync<KeptEvent>(
        async () => await store.OrderEventAsync(id, stop) is not { } kept ? Problem.Of(ProblemKind.NotFound, "order-event-unknown")
            : kept.State != OrderEventState.Unreadable ? Problem.Of(ProblemKind.Conflict, "order-event-done")
            : new Edit<KeptEvent>(new Edit("order.drop", $"{kept.Source}:{kept.Name}", [new OrderEventDropped(kept)]), kept),
        by);

    /// <summary>What a source says in a text, by a mapping where it has one.</summary>
    public static Outcome<OrderEvent?> Read(OrderSource source, string text, bool isForm, string fallback, DateTimeOffset now)
    {
        JsonElement json;
        try
        {
            json = isForm ? FormAsJson(text) : JsonDocument.Parse(text, new JsonDocumentOptions { MaxDepth = 32 }).RootElement;
        }
        catch (JsonException)
        {
            return Problem.In("", "order-json");
        }

        if (source.Mapping is { } mapping)
        {
            var mapped = mapping.Apply(json, fallback);
            if (mapped.Problem is { } odd)
            {
                return odd;
            }

            if (mapped.Value is null)
            {
                return (OrderEvent?)null;
            }

            json = mapped.Value.Value;
        }

        var read = EventReading.Read(json, now);
        return read.Problem is { } problem ? problem : read.Value;
    }

    /// <summary>The secrets of a source that count now.</summary>
    public IReadOnlyList<string> SecretsOf(OrderSource source) =>
        [.. source.Secrets.Where(s => s.Until is null || s.Until > time.GetUtcNow()).Select(s => Opened(s.Sealed)).OfType<string>()];

    /// <summary>A secret, sealed for the store.</summary>
    public Secret Sealed(string secret) => new(Convert.ToBase64String(secrets.Seal(Encoding.UTF8.GetBytes(secret))));

    /// <summary>Why something cannot be read, for whoever has to say how.</summary>
    public static string FaultOf(Problem problem)
    {
        var said = string.Join("\n", problem.Faults.Take(10).Select(f => $"{f.Field}: {f.Message}"));
        return said.Length > 2000 ? said[..2000] : said;
    }

    /// <summary>The time, as finely as both databases keep it.</summary>
    public DateTimeOffset Now => time.GetUtcNow() is var now ? new DateTimeOffset(now.Ticks - (now.Ticks % 10), TimeSpan.Zero) : default;

    private string? Opened(Secret sealedSecret)
    {
        try
        {
            return Encoding.UTF8.GetString(secrets.Unseal(Convert.FromBase64String(sealedSecret.Reveal())));
        }
        catch (Exception fault) when (fault is System.Security.Cryptography.CryptographicException or FormatException)
        {
            // Sealed under another secret of the service: whoever tells has to be given a new one.
            return null;
        }
    }

    /// <summary>What came, as text that a database takes: without what is no text at all.</summary>
    private static string Utf8(byte[] body) => Encoding.UTF8.GetString(body).Replace("\0", "\uFFFD", StringComparison.Ordinal);

    /// <summary>Everything in a text that a JSON Pointer can point at, with what stands there; nothing where it cannot be read.</summary>
    public static IReadOnlyList<(string Pointer, string Value)> Pointers(string text, bool isForm)
    {
        var found = new List<(string, string)>();
        void Walk(JsonElement at, string pointer)
        {
            switch (at.ValueKind)
            {
                case JsonValueKind.Object:
                    foreach (var inside in at.EnumerateObject())
                    {
                        Walk(inside.Value, pointer + "/" + inside.Name.Replace("~", "~0", StringComparison.Ordinal)
                            .Replace("/", "~1", StringComparison.Ordinal));
                    }

                    break;
                case JsonValueKind.Array:
                    found.Add((pointer, $"[{at.GetArrayLength()}]"));
                    for (var n = 0; n < at.GetArrayLength(); n++)
                    {
                        Walk(at[n], $"{pointer}/{n}");
                    }

                    break;
                case JsonValueKind.String or JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False:
                    found.Add((pointer, at.ToString()));
                    break;
            }
        }

        try
        {
            Walk(isForm ? FormAsJson(text) : JsonDocument.Parse(text, new JsonDocumentOptions { MaxDepth = 32 }).RootElement, "");
        }
        catch (Exception fault) when (fault is JsonException or InvalidOperationException)
        {
            return [];
        }

        return found;
    }

    private static JsonElement FormAsJson(string text)
    {
        var fields = Microsoft.AspNetCore.WebUtilities.QueryHelpers.ParseQuery("?" + text);
        return JsonSerializer.SerializeToElement(fields.ToDictionary(f => f.Key, f => f.Value.ToString()));
    }
}
