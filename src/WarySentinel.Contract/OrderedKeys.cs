using System.Text.Json.Serialization;

namespace WarySentinel.Contract;

/// <summary>An order: what is named comes first, what is not stays behind it as it stood.</summary>
public sealed record OrderedKeys([property: JsonRequired] IReadOnlyList<string> Keys);
