namespace WarySentinel.Service.Web;

/// <summary>The first line, put before the rest.</summary>
public sealed class JoinedReader(string first, TextReader rest) : TextReader
{
    private readonly StringReader head = new(first + "\n");

    /// <inheritdoc/>
    public override int Read() => head.Read() is >= 0 and var next ? next : rest.Read();

    /// <inheritdoc/>
    public override int Peek() => head.Peek() is >= 0 and var next ? next : rest.Peek();

    /// <inheritdoc/>
    public override int Read(char[] buffer, int index, int count) => head.Read(buffer, index, count) is > 0 and var some ? some
        : rest.Read(buffer, index, count);
}
