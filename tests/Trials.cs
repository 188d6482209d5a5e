namespace WarySentinel;

/// <summary>
/// How often something is tried that no number of tries ever settles: a few times beside all other tests, many times in the long form, which
/// <c>bench/trials.sh</c> runs.
/// </summary>
internal static class Trials
{
    private static readonly bool AreLong = Environment.GetEnvironmentVariable("WARY_TRIALS") == "long";

    /// <summary>A few, or many where the long form is asked for; or as many as an environment variable says.</summary>
    public static int Of(int few, int many, string? variable = null) =>
        variable is not null && int.TryParse(Environment.GetEnvironmentVariable(variable), out var said) ? said : AreLong ? many : few;
}
