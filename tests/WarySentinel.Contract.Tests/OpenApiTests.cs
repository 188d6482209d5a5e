using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization;
using Shouldly;
using Xunit;

namespace WarySentinel.Contract.Tests;

/// <summary>The wire records are what the committed OpenAPI document says: neither side knows a record, a field or a type that the other does not.</summary>
public sealed class OpenApiTests
{
    private static readonly JsonElement Schemas = JsonDocument.Parse(File.ReadAllText(Path.Combine(FindRoot(), "console", "openapi.json"))).RootElement
        .GetProperty("components").GetProperty("schemas");

    /// <summary>Not described one by one: the envelope of lists, a secret that is a string on the wire, and what RFC 9457 describes.</summary>
    private static readonly Type[] Others = [typeof(PageOf<>), typeof(SecretText), typeof(ProblemBody), typeof(ApiJson)];

    public static TheoryData<string> Records => [.. All.Select(t => t.Name)];

    private static List<Type> All => [.. typeof(ApiJson).Assembly.GetExportedTypes().Where(t => !t.IsNested && !Others.Contains(t))];

    [Theory]
    [MemberData(nameof(Records))]
    public void A_record_has_the_fields_of_its_schema(string record)
    {
        var type = All.Single(t => t.Name == record);
        if (!Schemas.TryGetProperty(record, out var schema))
        {
            // A located fault is told of inside problems and results alike.
            record.ShouldBe(nameof(Fault));
            return;
        }

        var described = schema.GetProperty("properties").EnumerateObject().ToDictionary(p => p.Name, p => p.Value);
        var fields = type.GetProperties(BindingFlags.Instance | BindingFlags.Public).Where(p => p.GetIndexParameters().Length == 0)
            .ToDictionary(p => p.GetCustomAttribute<JsonPropertyNameAttribute>()?.Name ?? JsonNamingPolicy.CamelCase.ConvertName(p.Name));
        fields.Keys.ShouldBe(described.Keys, ignoreOrder: true);
        foreach (var (name, field) in fields)
        {
            var nullable = new NullabilityInfoContext().Create(field).ReadState == NullabilityState.Nullable;
            Kinds(described[name]).ShouldBe(Kind(field.PropertyType, nullable), ignoreOrder: true, $"{record}.{name}");
        }
    }

    [Fact]
    public void Every_schema_has_its_record()
    {
        var names = Schemas.EnumerateObject().Select(s => s.Name).Where(n => !n.StartsWith("PageOf", StringComparison.Ordinal)
            && n is not ("ProblemDetails" or "HttpValidationProblemDetails"));
        names.Except(All.Select(t => t.Name)).ShouldBeEmpty();
    }

    [Fact]
    public void A_field_that_is_missing_is_found() =>
        Should.Throw<ShouldAssertException>(() => Kinds(Schemas.GetProperty("GateView").GetProperty("properties").GetProperty("version"))
            .ShouldBe(Kind(typeof(string), false), ignoreOrder: true));

    /// <summary>The JSON types that a schema allows; a reference is told by its name.</summary>
    private static List<string> Kinds(JsonElement schema)
    {
        if (schema.TryGetProperty("$ref", out var to))
        {
            return [to.GetString()!.Split('/')[^1]];
        }

        if (schema.TryGetProperty("oneOf", out var either))
        {
            return [.. either.EnumerateArray().SelectMany(Kinds)];
        }

        var types = schema.TryGetProperty("type", out var type) ? type : default;
        List<string> kinds = types.ValueKind == JsonValueKind.Array ? [.. types.EnumerateArray().Select(t => t.GetString()!)]
            : types.ValueKind == JsonValueKind.String ? [types.GetString()!] : [];
        // A whole number may be written as a string of digits, by the reader that the framework is.
        kinds.RemoveAll(k => k == "string" && kinds.Contains("integer"));
        return kinds;
    }

    private static List<string> Kind(Type type, bool nullable)
    {
        var plain = Nullable.GetUnderlyingType(type) ?? type;
        var kind = plain == typeof(string) || plain == typeof(Guid) || plain == typeof(DateTimeOffset) || plain == typeof(SecretText) ? "string"
            : plain == typeof(bool) ? "boolean"
            : plain == typeof(int) || plain == typeof(long) ? "integer"
            : plain.IsGenericType ? plain.GetGenericTypeDefinition() == typeof(IReadOnlyDictionary<,>) ? "object" : "array"
            : plain.Name;
        return nullable ? [kind, "null"] : [kind];
    }

    private static string FindRoot()
    {
        var at = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(at, "WarySentinel.slnx")))
        {
            at = Path.GetDirectoryName(at) ?? throw new InvalidOperationException("The tests do not run inside the repository.");
        }

        return at;
    }
}
