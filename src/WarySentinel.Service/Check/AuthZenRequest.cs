using System.Net;
using System.Text.Json;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Service.Check;

/// <summary>A request that the standard does not allow; answered with status 400 (Authorization API 1.0 §11).</summary>
public sealed class AuthZenException(string message) : Exception(message);

/// <summary>The entities of one evaluation, with the defaults of a batch beneath them (Authorization API 1.0 §5, §7.1).</summary>
public sealed class AuthZenRequest
{
    private readonly JsonElement[] layers;

    /// <summary>Reads an evaluation; what it leaves out comes from the other, where one is given.</summary>
    public AuthZenRequest(JsonElement own, JsonElement? defaults = null)
    {
        layers = defaults is { } beneath ? [own, beneath] : [own];
        if (own.ValueKind != JsonValueKind.Object)
        {
            throw new AuthZenException(Words.Of("authzen.object", "evaluation"));
        }
    }

    /// <summary>The kind of the subject.</summary>
    public string SubjectType => Text(Entity("subject"), "subject", "type");

    /// <summary>The kind of the resource.</summary>
    public string ResourceType => Text(Entity("resource"), "resource", "type");

    /// <summary>The time to decide for: <c>context.time</c> where it is given (RFC 3339).</summary>
    /// <param name="policy">Knows the site's time zone, for a time without an offset.</param>
    public DateTimeOffset? Time(Policy policy)
    {
        if (Find("context") is not { } context)
        {
            return null;
        }

        if (context.ValueKind != JsonValueKind.Object)
        {
            throw new AuthZenException(Words.Of("authzen.object", "context"));
        }

        if (!context.TryGetProperty("time", out var time))
        {
            return null;
        }

        return time.ValueKind == JsonValueKind.String && new SiteDates(policy.Settings.TimeZone).TryRead(time.GetString()!, false, out var at)
            ? at : throw new AuthZenException(Words.Of("authzen.time"));
    }

    /// <summary>From how many on a price is asked for, and in which currency: <c>context.quantity</c>, <c>context.currency</c>.</summary>
    public (int Quantity, string? Currency) Cart()
    {
        if (Find("context") is not { ValueKind: JsonValueKind.Object } context)
        {
            return (1, null);
        }

        var quantity = 1;
        if (context.TryGetProperty("quantity", out var many) && !(many.ValueKind == JsonValueKind.Number && many.TryGetInt32(out quantity) && quantity >= 1))
        {
            throw new AuthZenException(Words.Of("authzen.quantity"));
        }

        var currency = context.TryGetProperty("currency", out var said) ? said.ValueKind == JsonValueKind.String ? said.GetString() : "" : null;
        return currency is null || Core.Orders.Money.IsCurrency(currency) ? (quantity, currency)
            : throw new AuthZenException(Words.Of("problem.price-currency", currency));
    }

    /// <summary>The act.</summary>
    public Acts Act()
    {
        var name = Text(Entity("action"), "action", "name");
        return ActNames.TryParse(name, out var act) ? act : throw new AuthZenException(Words.Of("problem.act-unknown", name));
    }

    /// <summary>The subject's name as viewpoints know it, and the network and gates that its properties name.</summary>
    public (string Viewpoint, IPAddress? Address, IReadOnlyList<string> Unlocked) Subject()
    {
        var subject = Entity("subject");
        var (type, id) = (Text(subject, "subject", "type"), Text(subject, "subject", "id"));
        var viewpoint = type switch
        {
            "guest" => "guest",
            // Whatever the API and the command line take for a visitor, several facts with commas among it.
            "visitor" => id,
            "member" or "user" => id.Contains('@', StringComparison.Ordinal) || Guid.TryParse(id, out _) ? id : id + "@",
            "role" or "group" or "plan" => $"{type}:{id}",
            _ => throw new AuthZenException(Words.Of("authzen.subject-type", type)),
        };
        IPAddress? address = null;
        var unlocked = new List<string>();
        if (subject.TryGetProperty("properties", out var properties))
        {
            if (properties.ValueKind != JsonValueKind.Object)
            {
                throw new AuthZenException(Words.Of("authzen.object", "subject.properties"));
            }

            if (properties.TryGetProperty("address", out var from)
                && !IPAddress.TryParse(from.ValueKind == JsonValueKind.String ? from.GetString() : null, out address))
            {
                throw new AuthZenException(Words.Of("authzen.address"));
            }

            if (properties.TryGetProperty("unlocked", out var gates))
            {
                if (gates.ValueKind != JsonValueKind.Array || gates.EnumerateArray().Any(g => g.ValueKind != JsonValueKind.String))
                {
                    throw new AuthZenException(Words.Of("authzen.unlocked"));
                }

                unlocked.AddRange(gates.EnumerateArray().Select(g => g.GetString()!));
            }
        }

        return (viewpoint, address, unlocked);
    }

    /// <summary>The resource: an item, or a path on the site.</summary>
    public (ItemId? Item, string? Path) Resource()
    {
        var resource = Entity("resource");
        var (type, id) = (Text(resource, "resource", "type"), Text(resource, "resource", "id"));
        if (type == "path")
        {
            return (null, id);
        }

        return type == "site" ? (ItemId.Site, null)
            : ItemId.TryKind(type, out var kind) ? (new ItemId(kind, id), null)
            : throw new AuthZenException(Words.Of("authzen.resource-type", type));
    }

    private JsonElement Entity(string name)
    {
        var entity = Find(name) ?? throw new AuthZenException(Words.Of("authzen.missing", name));
        return entity.ValueKind == JsonValueKind.Object ? entity : throw new AuthZenException(Words.Of("authzen.object", name));
    }

    private JsonElement? Find(string name)
    {
        foreach (var layer in layers)
        {
            if (layer.TryGetProperty(name, out var found) && found.ValueKind != JsonValueKind.Null)
            {
                return found;
            }
        }

        return null;
    }

    private static string Text(JsonElement entity, string name, string field) =>
        entity.TryGetProperty(field, out var value) && value.ValueKind == JsonValueKind.String && value.GetString() is { Length: > 0 and <= 2048 } text
            ? text : throw new AuthZenException(Words.Of("authzen.missing", $"{name}.{field}"));
}
